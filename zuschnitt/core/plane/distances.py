"""How far curves lie from each other."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from .contour import Contour

FINE = 1e-4
"""Arcs are flattened to this in mm."""


def largest_distance(contours: Sequence[Contour], given: Sequence[Contour]) -> float:
    """The largest distance in mm of points of ``contours`` from the nearest of the ``given`` ones."""
    lines = np.array([shapely.LineString(contour.flattened(FINE)) for contour in given if len(contour.points) > 1])
    if not len(lines):
        return 0.0
    tree = shapely.STRtree(lines)
    points = shapely.points(np.vstack([contour.flattened(FINE) for contour in contours]))
    _, gaps = tree.query_nearest(points, return_distance=True, all_matches=False)
    return float(gaps.max(initial=0.0))
