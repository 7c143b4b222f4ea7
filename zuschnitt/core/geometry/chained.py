"""Pieces of curves in space, joined end to end where they meet."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from ..record import record
from .curves import Array

CREASE = np.radians(0.1)
"""Where a curve turns by more than this, it has a corner."""


@record
class Chain:
    """``points`` (n, 3) of ``pieces`` (their places) in a row; a closed one ends where it begins. At the points
    ``corners`` it turns."""

    points: Array
    corners: tuple[int, ...]
    pieces: tuple[int, ...]
    closed: bool


def chained(pieces: Sequence[Array], gap: float) -> list[Chain]:
    """Pieces (n, 3), each at least two points, joined where two ends, and no more, lie within ``gap`` mm."""
    from scipy.spatial import cKDTree

    ends = np.array([piece[k] for piece in pieces for k in (0, -1)]).reshape(-1, 3)
    near = cKDTree(ends).query_ball_point(ends, gap)
    mate = {k: next(iter(set(found) - {k})) for k, found in enumerate(near) if len(found) == 2}
    waiting = set(range(len(pieces)))
    made = []
    while waiting:
        # from a loose end, if there is one: else it goes round
        start = next((2 * k + side for k in sorted(waiting) for side in (0, 1) if 2 * k + side not in mate), None)
        here = 2 * min(waiting) if start is None else start
        walk: list[int] = []
        while here // 2 in waiting:
            waiting.discard(here // 2)
            walk.append(here)
            here = mate.get(here ^ 1, -1)  # the other end of this piece, and what begins there
        made.append(_joined(pieces, walk, here == walk[0]))
    return made


def _joined(pieces: Sequence[Array], walk: list[int], closed: bool) -> Chain:
    runs = [pieces[end // 2][:: -1 if end % 2 else 1] for end in walk]
    points, corners = [runs[0]], []
    count = len(runs[0])
    for before, after in pairwise(runs):
        if turn_between(before, after) > CREASE:
            corners.append(count - 1)
        points.append(after[1:])
        count += len(after) - 1
    line = np.vstack(points)
    if closed:
        line[-1] = line[0]
        if turn_between(runs[-1], runs[0]) > CREASE:
            corners.insert(0, 0)
    return Chain(line, tuple(corners), tuple(end // 2 for end in walk), closed)


def turn_between(before: Array, after: Array) -> float:
    """By what angle a curve turns from one run of points to the next one, which begins where that ends."""
    came, goes = -leaving(before[::-1]), leaving(after)
    return float(np.arctan2(np.linalg.norm(np.cross(came, goes)), came @ goes))


def leaving(points: Array) -> Array:
    """The direction (3,) in which a smooth curve leaves its first point, by the parabola through three."""
    steps = np.linalg.norm(np.diff(points[:3], axis=0), axis=1)
    if len(points) < 3:
        way = points[1] - points[0]
    else:
        first, second = ((points[k + 1] - points[k]) / steps[k] for k in (0, 1))
        way = first + (first - second) * steps[0] / steps.sum()
    return np.asarray(way / np.linalg.norm(way))


def length_of(points: Array) -> float:
    """The length in mm of a polyline (n, 3)."""
    return float(np.linalg.norm(np.diff(points, axis=0), axis=1).sum())
