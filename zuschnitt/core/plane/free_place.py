"""The largest free place of an area for a box that stands upright."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from ..geometry.curves import Array

THIN = 1e-3
"""A box counts as at least so wide for its height, and so high for its width."""
FINE = 0.01
"""The largest circle is sought to this part of the area's size."""
STEPS = 40
TOUCH = 1e-9
"""A box that reaches beyond the area by this part of its size still lies in it."""
BESIDE = 0.9
"""What has to be made smaller takes this part of what is free."""


def largest_place(free: shapely.Geometry, width: float, height: float) -> tuple[Array, float] | None:
    """Where the middle (2,) of a box of ``width`` x ``height`` mm best lies in ``free``, and its scale there.

    The place is where the box has most room about it: the middle of the largest circle once the plane is stretched so
    that the box is a square; in a long place the middle of it. The scale is 1 where the box fits in its own size, else
    ``BESIDE`` of the largest that does. None where nothing is free.
    """
    if free.is_empty or free.area <= 0:
        return None
    size = np.maximum([width, height], THIN * max(width, height, THIN))
    size = size / size.max()  # only how it is shaped counts until it is laid there
    squared = shapely.transform(free, lambda points: points / size)
    low, high = np.reshape(shapely.bounds(squared), (2, 2))
    ray = shapely.maximum_inscribed_circle(squared, tolerance=FINE * float((high - low).min()))
    middle = shapely.get_coordinates(ray)[0] * size
    longest = max(width, height)
    fits = _largest_scale(free, middle, size)
    scale = 1.0 if fits >= longest else BESIDE * fits / longest
    for _ in range(2):
        for axis in (0, 1):
            middle = _between(free, middle, size * longest * scale, axis)
    return middle, scale


def without_boxes(area: shapely.Geometry, boxes: Sequence[tuple[float, float, float, float]]) -> shapely.Geometry:
    """The area without these boxes (left, bottom, right, top)."""
    taken = shapely.box(*np.asarray(boxes, float).reshape(-1, 4).T)
    return shapely.difference(area, shapely.union_all(taken))


def _largest_scale(free: shapely.Geometry, middle: Array, size: Array) -> float:
    """By how much ``size`` (2,) can be multiplied so that a box about ``middle`` still lies in the area."""
    shapely.prepare(free)
    low, high = np.reshape(shapely.bounds(free), (2, 2))
    inside, outside = 0.0, float(((high - low) / size).max()) * (1 + TOUCH)
    for _ in range(STEPS):
        tried = (inside + outside) / 2
        if free.covers(_box(middle, size * tried * (1 - TOUCH))):
            inside = tried
        else:
            outside = tried
    return inside * (1 + TOUCH)


def _between(free: shapely.Geometry, middle: Array, size: Array, axis: int) -> Array:
    """The box moved along one axis to the middle of the way that it has there."""
    low, high = np.add(np.reshape(shapely.bounds(free), (2, 2)), [[-1.0], [1.0]])
    half = size / 2 * (1 - TOUCH)
    band_low, band_high = low.copy(), high.copy()
    band_low[1 - axis], band_high[1 - axis] = (middle - half)[1 - axis], (middle + half)[1 - axis]
    stops = []
    for side in (-1, 1):
        start, end = band_low.copy(), band_high.copy()
        (end if side < 0 else start)[axis] = (middle + side * half)[axis]
        taken = shapely.difference(shapely.box(*start, *end), free)
        reach = np.reshape(shapely.bounds(taken), (2, 2))[:, axis]
        stops.append(reach[1] if side < 0 else reach[0])
    moved = middle.copy()
    if np.isfinite(stops).all():
        moved[axis] = sum(stops) / 2
    return moved if free.covers(_box(moved, size * (1 - 2 * TOUCH))) else middle


def _box(middle: Array, size: Array) -> shapely.Geometry:
    return shapely.box(*(middle - size / 2), *(middle + size / 2))
