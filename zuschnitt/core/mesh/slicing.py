"""Triangles split along a plane, so that a closed mesh can be cut open along a straight seam."""

from __future__ import annotations

import numpy as np
from scipy.sparse import coo_matrix

from ..geometry.curves import Array
from ..record import record
from .opening import characteristic, edge_keys, far_points, graph, half_edges, numbered_anew, shortest_path
from .triangles import boundary_rings

NEAR = 0.1
"""A point nearer to the plane than this part of its shortest edge counts as on it: so there are no slivers."""


@record
class Sliced:
    """``points`` (n, 3) and ``triangles`` (t, 3); ``parent`` (t,) is which one each is a part of.

    ``seam`` are the numbers of the points along which to cut.
    """

    points: Array
    triangles: np.ndarray
    parent: np.ndarray
    seam: np.ndarray


def sliced_ball(points: Array, triangles: np.ndarray) -> Sliced | None:
    """A closed mesh like a ball, with a seam straight from one far point to another; None for other meshes.

    The seam lies in a plane through both. ``triangles`` are a part of all that there are over ``points``.
    """
    if characteristic(triangles) != 2 or boundary_rings(triangles):
        return None
    used, local = numbered_anew(triangles, len(points))
    own = points[used]
    ends = far_points(graph(own, local))
    height = _above(own, local, ends)
    made, parts, parent = _split(own, local, height)
    pairs = half_edges(parts)
    on_plane = np.r_[height == 0, np.ones(len(made) - len(own), bool)]
    along = np.unique(np.sort(pairs[on_plane[pairs].all(axis=1)], axis=1), axis=0)
    lengths = np.linalg.norm(made[along[:, 0]] - made[along[:, 1]], axis=1)
    ways = coo_matrix((lengths, tuple(along.T)), (len(made), len(made))).tocsr()
    path = shortest_path(ways, ends[:1], ends[1:])
    if path[0] != ends[0]:
        return None
    numbers = np.r_[used, len(points) + np.arange(len(made) - len(own))]
    every = np.vstack([points, made[len(own) :]])
    return Sliced(every, numbers[parts], parent, numbers[path])


def _above(points: Array, triangles: np.ndarray, ends: np.ndarray) -> Array:
    """How far points (n,) are above a plane through both ends and the point furthest from the line between them."""
    off = points - points[ends[0]]
    axis = points[ends[1]] - points[ends[0]]
    across = np.cross(off, axis)
    normal = np.cross(axis, off[np.linalg.norm(across, axis=1).argmax()])
    height = off @ (normal / np.linalg.norm(normal))
    i, j = half_edges(triangles).T
    shortest = np.full(len(points), np.inf)
    np.minimum.at(shortest, np.r_[i, j], np.tile(np.linalg.norm(points[i] - points[j], axis=1), 2))
    height[np.abs(height) < NEAR * shortest] = 0.0
    height[ends] = 0.0
    return height


def _split(points: Array, triangles: np.ndarray, height: Array) -> tuple[Array, np.ndarray, np.ndarray]:
    """The triangles split where the height changes its sign: all points, triangles, and which one each was part of."""
    n = len(points)
    sign = np.sign(height).astype(int)
    pairs = half_edges(triangles)
    crossing = sign[pairs[:, 0]] * sign[pairs[:, 1]] < 0
    keys = np.unique(edge_keys(pairs[crossing], n))
    a, b = keys // n, keys % n
    share = (height[a] / (height[a] - height[b]))[:, None]
    every = np.vstack([points, points[a] + share * (points[b] - points[a])])

    def between(i: np.ndarray, j: np.ndarray) -> np.ndarray:
        return n + np.searchsorted(keys, edge_keys(np.stack([i, j], axis=1), n))

    signs = sign[triangles]
    whole = ~((signs > 0).any(axis=1) & (signs < 0).any(axis=1))
    parts, parents = [triangles[whole]], [np.nonzero(whole)[0]]
    for k in range(3):
        first, second, third = (triangles[:, (k + i) % 3] for i in range(3))
        s1, s2, s3 = (sign[corner] for corner in (first, second, third))
        lone = np.nonzero((s1 != 0) & (s2 == s3) & (s1 == -s2))[0]  # one corner on its own side
        i, j, m = first[lone], second[lone], third[lone]
        p, q = between(i, j), between(i, m)
        parts += [np.stack(v, axis=1) for v in ((i, p, q), (p, j, m), (p, m, q))]
        through = np.nonzero((s1 == 0) & (s2 * s3 < 0))[0]  # the plane passes through a corner
        i, j, m = first[through], second[through], third[through]
        p = between(j, m)
        parts += [np.stack(v, axis=1) for v in ((i, j, p), (i, p, m))]
        parents += [lone, lone, lone, through, through]
    return every, np.concatenate(parts), np.concatenate(parents)
