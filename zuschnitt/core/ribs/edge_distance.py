"""How far the square edges of plates are from the form that they stand for."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
import shapely

from ..form.locator import Locator
from ..geometry.curves import Array
from .outlines import PlateFrame

SAMPLES, FEWEST = 1200, 12
"""So many places of all outlines are measured, about, and so many of each at least."""
PLATE_CORNER, MOST_CORNERS = np.radians(10), 16
ON = 0.02
"""What is further than this from the form in the middle of the plate, in mm, is no edge of it: a floor, a closing."""


def edge_distance(
    locator: Locator, plates: Iterable[tuple[PlateFrame, shapely.Geometry]], thickness: float
) -> tuple[float, float]:
    """The largest and the mean distance in mm from the form of both rims of the plates' outlines, slots left out."""
    every = list(plates)
    middles, half = [], []
    for frame, area in every:
        points = np.vstack([_strewn(area, max(FEWEST, SAMPLES // len(every))), _corners(area)])
        middles.append(frame.space(points))
        half.append(np.tile(thickness / 2 * frame.normal, (len(points), 1)))
    middle, across = np.vstack(middles), np.vstack(half)
    on = _gaps(locator, middle) < ON
    gaps = _gaps(locator, np.vstack([middle[on] - across[on], middle[on] + across[on]]))
    return float(gaps.max(initial=0.0)), float(gaps.mean()) if len(gaps) else 0.0


def _gaps(locator: Locator, points: Array) -> Array:
    return np.asarray(np.linalg.norm(locator.feet(points).points - points, axis=1))


def _corners(area: shapely.Geometry) -> Array:
    """The corners (n, 2) of an outline, where a rim is furthest off, the sharpest ones where there are many."""
    found, sharp = [], []
    for part in shapely.get_parts(area):
        ring = shapely.get_coordinates(part.exterior)[:-1]
        before, after = ring - np.roll(ring, 1, axis=0), np.roll(ring, -1, axis=0) - ring
        turn = np.abs(np.arctan2(before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0], (before * after).sum(axis=1)))
        found.append(ring)
        sharp.append(turn)
    points, turns = np.vstack(found), np.concatenate(sharp)
    return points[turns > PLATE_CORNER][np.argsort(-turns[turns > PLATE_CORNER])[:MOST_CORNERS]]


def _strewn(area: shapely.Geometry, count: int) -> Array:
    """Points (n, 2) on the outline, evenly spaced, all of them on its own chords."""
    line = shapely.boundary(area)
    at = (np.arange(count) + 0.5) / count * line.length
    parts = shapely.get_parts(line)
    reached = np.r_[0.0, np.cumsum(shapely.length(parts))]
    which = np.clip(np.searchsorted(reached, at, "right") - 1, 0, len(parts) - 1)
    return shapely.get_coordinates(shapely.line_interpolate_point(parts[which], at - reached[which]))
