"""STL: the triangles of a form, for other programs and for looking."""

from __future__ import annotations

import numpy as np

from ..form.curves import Array
from ..form.form import Form
from ..plane.arrangement import clusters

ONE_POINT = 2e-5
"""Points nearer to each other than this, in mm, are one: where faces meet, each has its own by a rounding."""


def stl_bytes(form: Form) -> bytes:
    """Binary STL of all faces in mm; points that faces share along an edge are the same in both."""
    offsets = np.cumsum([0, *(len(mesh.points) for mesh in form.meshes)])
    triangles = np.vstack([mesh.triangles + o for mesh, o in zip(form.meshes, offsets, strict=False)])
    points = np.vstack([mesh.points for mesh in form.meshes])
    node = clusters(points, ONE_POINT)
    corners = node[triangles]
    corners = corners[(corners != np.roll(corners, 1, axis=1)).all(axis=1)]
    # two that lie on each other, one on each side of an edge, enclose nothing
    _, which, count = np.unique(np.sort(corners, axis=1), axis=0, return_inverse=True, return_counts=True)
    return triangles_stl(points[np.unique(node, return_index=True)[1]], corners[count[which.ravel()] != 2])


def triangles_stl(points: Array, triangles: np.ndarray) -> bytes:
    """Binary STL of triangles (t, 3) over points (n, 3) in mm."""
    return _records(points[triangles])


def _records(corners: Array) -> bytes:
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-300)
    record = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])
    rows = np.zeros(len(corners), record)
    rows["normal"], rows["corners"] = normals, corners
    head = b"Zuschnitt, mm".ljust(80, b" ") + np.uint32(len(rows)).tobytes()
    return head + rows.tobytes()
