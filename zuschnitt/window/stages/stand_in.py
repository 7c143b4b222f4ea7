"""A lighter form that stands in for one of very many triangles while it moves.

Points that are near to each other and look the same way are one (Rossignac and Borrel, Multi-resolution 3D
approximations for rendering complex scenes, 1993).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...core.record import record

MANY = 40_000
"""A form of more triangles than this has a stand-in."""
CELLS = 110
"""So many cells lie along the longest side of the form, about; each keeps one point."""
SIDES = 1.4
"""Normals are told apart by their coordinates times this, rounded, so that edges stay sharp."""

Array = NDArray[np.float64]


@record
class StandIn:
    """``points`` and ``normals`` (n, 3), ``triangles`` (t, 3); ``parent`` (t,) is one that each stands for."""

    points: Array
    normals: Array
    triangles: NDArray
    parent: NDArray


def stand_in(points: Array, normals: Array, triangles: NDArray) -> StandIn:
    """That of triangles (t, 3) over points (n, 3) with their normals (n, 3)."""
    used = np.unique(triangles)
    low = points[used].min(axis=0)
    side = max(float(np.ptp(points[used], axis=0).max()), 1e-12) / CELLS
    cell = np.floor((points - low) / side).astype(np.int64)
    turned = np.rint(normals * SIDES).astype(np.int64) + 2
    key = cell @ np.array([1, CELLS + 2, (CELLS + 2) ** 2]) * 125 + turned @ np.array([1, 5, 25])
    _, node = np.unique(key, return_inverse=True)
    node = node.ravel()
    corners = node[triangles]
    kept = np.nonzero((corners != np.roll(corners, 1, axis=1)).all(axis=1))[0]
    _, first = np.unique(np.sort(corners[kept], axis=1), axis=0, return_index=True)
    kept = kept[np.sort(first)]
    count = np.bincount(node)
    middle = np.stack([np.bincount(node, points[:, k]) for k in range(3)], axis=1) / count[:, None]
    normal = np.stack([np.bincount(node, normals[:, k]) for k in range(3)], axis=1)
    normal = normal / np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-12)
    return StandIn(middle, normal, corners[kept], kept)
