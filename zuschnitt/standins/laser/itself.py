"""Where one run meets itself: it crosses or touches itself, or the beam goes the same way twice."""

from __future__ import annotations

import numpy as np
import shapely

from ..files.path import Array

BARELY = 0.05
"""Segments that lie on each other for less than this, in mm, only meet in a sharp corner."""
PARALLEL = 0.1
"""So much, in radians, segments that lie on each other may differ in direction."""


def twice_along(points: Array, near: float) -> tuple[float, Array | None]:
    """How much of a run with these points (n, 2) lies within ``near`` mm of another part of it, and one such place.

    Of two parts that lie on each other one counts.
    """
    steps = np.diff(points, axis=0)
    lengths = np.linalg.norm(steps, axis=1)
    points = np.vstack([points[:1], points[1:][lengths > 0]])
    steps, lengths = steps[lengths > 0], lengths[lengths > 0]
    if len(steps) < 2:
        return 0.0, None
    segments = shapely.linestrings(np.stack([points[:-1], points[1:]], axis=1))
    one, other = shapely.STRtree(segments).query(segments, predicate="dwithin", distance=near)
    ways = steps / lengths[:, None]
    across = ways[one, 0] * ways[other, 1] - ways[one, 1] * ways[other, 0]
    ahead = (one + 1 == other) & (np.einsum("ij,ij->i", ways[one], ways[other]) > 0)
    pairs = (one < other) & (np.abs(across) < PARALLEL) & ~ahead
    one, other = one[pairs], other[pairs]
    strips = shapely.buffer(segments[one], near, cap_style="flat")
    shared = shapely.intersection(segments[other], strips)
    long = shapely.length(shared)
    counts = long > np.minimum(BARELY, lengths[other] / 2)
    if not counts.any():
        return 0.0, None
    middle = shapely.line_interpolate_point(shared[counts][0], 0.5, normalized=True)
    return float(long[counts].sum()), shapely.get_coordinates(middle)[0]


def meets_itself(line: shapely.LineString) -> Array | None:
    """The first place at which a closed run crosses or touches itself; None for none."""
    if line.is_simple:
        return None
    ends = [np.array(piece.coords)[[0, -1]] for piece in shapely.get_parts(shapely.node(line))]
    places, counts = np.unique(np.round(np.concatenate(ends), 6), axis=0, return_counts=True)
    met = places[counts > 2]
    if not len(met):
        return None
    return met[int(shapely.line_locate_point(line, shapely.points(met)).argmin())]
