"""Sets of closed contours made such that none crosses another."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from ..errors import Refused
from .contour import Contour
from .spans import Spans

FINE = 1e-3
"""Contours are looked at within this, in mm."""
CLEAR = 1e-6
"""Within this part of a span of its ends, spans that meet do not cross there."""
ANGLE = 1e-6
"""Spans that meet at a smaller angle, in radians, touch."""


def crosses_itself(contour: Contour) -> bool:
    """Whether a closed contour crosses itself; touching at a point is none."""
    ring = shapely.LinearRing(contour.flattened(FINE))
    if ring.is_simple:
        return False
    shape = shapely.make_valid(shapely.Polygon(ring))
    # two lobes that turn opposite ways: what they cover is not what the contour encloses
    return abs(shape.area - abs(contour.area)) > 2 * FINE * ring.length


def require_simple(contours: Sequence[Contour]) -> None:
    """Raises Refused for a contour that crosses itself."""
    for contour in contours:
        if contour.closed and crosses_itself(contour):
            x, y = contour.points[0]
            raise Refused(f"The figure that begins at {x:.6g}, {y:.6g} crosses itself; draw it so that it does not.")


def groups_that_cross(contours: Sequence[Contour]) -> list[list[int]]:
    """Closed contours by their places: those that cross each other, directly or over others, together."""
    head = list(range(len(contours)))

    def root(k: int) -> int:
        while head[k] != k:
            head[k] = head[head[k]]
            k = head[k]
        return k

    spans = Spans.of(contours)
    i, j, s, t = spans.meetings()
    inner = (np.minimum(s, 1 - s) > CLEAR) & (np.minimum(t, 1 - t) > CLEAR) & (spans.owner[i] != spans.owner[j])
    i, j, s, t = i[inner], j[inner], s[inner], t[inner]
    along, other = spans.direction(s, i), spans.direction(t, j)
    turned = np.abs(along[:, 0] * other[:, 1] - along[:, 1] * other[:, 0]) > ANGLE  # else they only touch
    for a, b in zip(spans.owner[i][turned].tolist(), spans.owner[j][turned].tolist(), strict=True):
        head[root(a)] = root(b)
    found: dict[int, list[int]] = {}
    for k in range(len(contours)):
        found.setdefault(root(k), []).append(k)
    return list(found.values())
