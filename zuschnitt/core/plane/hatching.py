"""Hatching: parallel lines at 45 degrees within closed polylines."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..geometry.curves import Array

MOST = 1500
"""No more lines than this: where there would be more, they stand further apart."""


def hatched(rings: Sequence[Array], apart: float) -> Array:
    """Lines (n, 2, 2), ``apart`` mm from each other, inside closed polylines (k, 2): even-odd, so islands are free."""
    whole = [ring for ring in rings if len(ring) >= 3]
    if not whole:
        return np.zeros((0, 2, 2))
    turn = np.array([[1.0, 1.0], [-1.0, 1.0]]) / np.sqrt(2)  # rows: along the lines, and square to them
    start = np.vstack(whole) @ turn.T
    end = np.vstack([np.roll(ring, -1, axis=0) for ring in whole]) @ turn.T
    low, high = np.minimum(start[:, 1], end[:, 1]), np.maximum(start[:, 1], end[:, 1])
    apart = max(apart, (high.max() - low.min()) / MOST)
    # the levels are between whole numbers; each edge is met where it is at its lower end or above, and below its upper
    first, last = np.ceil(low / apart - 0.5).astype(int), np.ceil(high / apart - 0.5).astype(int)
    count = last - first
    edge = np.repeat(np.arange(len(count)), count)
    level = first[edge] + np.arange(len(edge)) - np.repeat(np.cumsum(count) - count, count)
    height = (level + 0.5) * apart
    part = (height - start[edge, 1]) / (end[edge, 1] - start[edge, 1])
    along = start[edge, 0] + part * (end[edge, 0] - start[edge, 0])
    order = np.lexsort([along, level])
    ends = np.stack([along[order], height[order]], axis=1)  # an even number on each level
    return (ends @ turn).reshape(-1, 2, 2)
