"""Which closed contours lie within which."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from .contour import Contour

FINE = 0.01
"""Contours are looked at within this, in mm."""


def parents(contours: Sequence[Contour]) -> np.ndarray:
    """For each closed contour the place of the smallest one round it; -1 where there is none."""
    found = np.full(len(contours), -1)
    if len(contours) < 2:
        return found
    rings = [contour.flattened(FINE) for contour in contours]
    areas = np.array([shapely.make_valid(shapely.Polygon(ring)) for ring in rings])
    inner = shapely.points([(ring[0] + ring[1]) / 2 for ring in rings])
    size = shapely.area(areas)
    point, area = shapely.STRtree(areas).query(inner, predicate="within")
    larger = size[area] > size[point]
    point, area = point[larger], area[larger]
    for k in np.argsort(-size[area], kind="stable"):  # the smallest comes last and stays
        found[point[k]] = area[k]
    return found


def holes(contours: Sequence[Contour]) -> np.ndarray:
    """Which closed contours bound a hole: those with an odd number of others round them."""
    return holes_among(parents(contours))


def holes_among(above: np.ndarray) -> np.ndarray:
    """The same for what ``parents`` has found."""
    return depths(above) % 2 == 1


def depths(above: np.ndarray) -> np.ndarray:
    """How many contours lie round each, for what ``parents`` has found."""
    found = np.zeros(len(above), int)
    for k in range(len(above)):
        at = above[k]
        while at >= 0:
            found[k] += 1
            at = above[at]
    return found
