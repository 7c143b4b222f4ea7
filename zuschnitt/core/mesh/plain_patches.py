"""Patches of a mesh that surely do not pass through themselves, told from one look at each."""

from __future__ import annotations

import numpy as np
import shapely
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from ..geometry.curves import Array
from .opening import pairs_across
from .triangles import boundary_rings

FEWEST = 200
"""Patches of fewer triangles are not worth the look."""


def plain_patches(points: Array, triangles: np.ndarray) -> np.ndarray:
    """The number (t,) of the patch that each triangle lies in, or -1; a patch nowhere passes through itself.

    Triangles that face much the same way and hang together are seen from there. The outline says how often they cover
    each place of the view; once and no more, where it is that of a polygon, its holes turned the other way.
    """
    a, b, c = points.T.take(triangles.T, axis=1).swapaxes(0, 1)
    normal = np.cross(b - a, c - a, axis=0)
    axis = np.argmax(np.abs(normal), axis=0)
    way = np.where(np.take_along_axis(normal, axis[None], axis=0)[0] > 0, axis, axis + 3)
    t = len(triangles)
    one, other = pairs_across(triangles, len(points))
    one, other = one % t, other % t
    alike = way[one] == way[other]
    joined = coo_matrix((np.ones(int(alike.sum()), np.int8), (one[alike], other[alike])), (t, t))
    _, label = connected_components(joined, directed=False)
    found = np.full(t, -1)
    for number in np.nonzero(np.bincount(label) >= FEWEST)[0].tolist():
        mine = label == number
        if _seen_once(points, triangles[mine], int(way[mine][0])):
            found[mine] = number
    return found


def _seen_once(points: Array, triangles: np.ndarray, way: int) -> bool:
    """Whether triangles that all face ``way``, an axis or its other side counted from 3 on, cover no place twice."""
    axis = way % 3
    right, up = (axis + 1) % 3, (axis + 2) % 3
    return covers_once(points[:, [right, up] if way < 3 else [up, right]], triangles)


def covers_once(points: Array, triangles: np.ndarray) -> bool:
    """Whether the outline tells that triangles over ``points`` (n, 2), none of them flipped, cover no place twice.

    They cover each as often as the outline goes round it: once within that of a polygon, as its holes are turned the
    other way. Where it touches itself, that is left open, and False.
    """
    rings = [shapely.linearrings(points[ring]) for ring in boundary_rings(triangles) if len(ring) > 2]
    outer = [ring for ring in rings if shapely.is_ccw(ring)]
    if len(outer) != 1:
        return False
    holes = [ring for ring in rings if ring is not outer[0]]
    return bool(shapely.is_valid(shapely.Polygon(outer[0], holes)))
