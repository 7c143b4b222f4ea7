"""STL: the triangles of a form, for other programs and for looking."""

from __future__ import annotations

import numpy as np

from ..form.form import Form
from ..form.joined_triangles import joined_triangles
from ..geometry.curves import Array
from .mesh_back import require_same_triangles


def stl_bytes(form: Form) -> bytes:
    """Binary STL of all faces in mm; points that faces share along an edge are the same in both."""
    return triangles_stl(*joined_triangles(form))


def triangles_stl(points: Array, triangles: np.ndarray) -> bytes:
    """Binary STL of triangles (t, 3) over points (n, 3) in mm. Raises CannotBeDone where it does not say just that."""
    content = _records(points[triangles])
    require_same_triangles(content, "stl", points[triangles])
    return content


def _records(corners: Array) -> bytes:
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-300)
    record = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])
    rows = np.zeros(len(corners), record)
    rows["normal"], rows["corners"] = normals, corners
    head = b"Zuschnitt, mm".ljust(80, b" ") + np.uint32(len(rows)).tobytes()
    return head + rows.tobytes()
