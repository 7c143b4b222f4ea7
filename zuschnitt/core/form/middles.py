"""Places well within a face: in the middle of its largest triangles."""

from __future__ import annotations

import numpy as np

from ..geometry.curves import Array
from .form import FaceMesh


def middles(mesh: FaceMesh, count: int) -> Array:
    """Parameters (n, 2) of the middles of up to ``count`` triangles of a face, the largest ones."""
    corners = mesh.points[mesh.triangles]
    areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    found: Array = mesh.uv[mesh.triangles[np.argsort(-areas)[:count]]].mean(axis=1)
    return found
