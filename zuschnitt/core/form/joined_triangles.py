"""The triangles of a form as one mesh, in which faces share the points along their edges."""

from __future__ import annotations

from collections.abc import Collection

import numpy as np

from ..geometry.curves import Array
from ..plane.arrangement import clusters
from .form import Form

ONE_POINT = 2e-5
"""Points nearer to each other than this, in mm, are one: where faces meet, each has its own by a rounding."""


def joined_triangles(form: Form, faces: Collection[int] | None = None) -> tuple[Array, np.ndarray]:
    """Points (n, 3) and triangles (t, 3) of all ``faces``, anticlockwise seen from the outer side."""
    meshes = [m for f, m in zip(form.faces, form.meshes, strict=True) if faces is None or f.number in faces]
    offsets = np.cumsum([0, *(len(mesh.points) for mesh in meshes)])
    triangles = np.vstack([mesh.triangles + o for mesh, o in zip(meshes, offsets, strict=False)])
    return welded(np.vstack([mesh.points for mesh in meshes]), triangles)


def welded(points: Array, triangles: np.ndarray) -> tuple[Array, np.ndarray]:
    """Points (n, 3) and triangles (t, 3) that share their points, those without an area left out."""
    node = clusters(points, ONE_POINT)
    corners = node[triangles]
    corners = corners[(corners != np.roll(corners, 1, axis=1)).all(axis=1)]
    # two that lie on each other, one on each side of an edge, enclose nothing
    _, which, count = np.unique(np.sort(corners, axis=1), axis=0, return_inverse=True, return_counts=True)
    return points[np.unique(node, return_index=True)[1]], corners[count[which.ravel()] != 2]
