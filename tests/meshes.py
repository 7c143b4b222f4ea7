"""Meshes as what a file gives, and as forms."""

from __future__ import annotations

import numpy as np
import trimesh

from zuschnitt.core.form.mesh_form import form_from_triangles
from zuschnitt.core.mesh.given import Triangles


def given(mesh: trimesh.Trimesh) -> Triangles:
    triangles = np.asarray(mesh.faces)
    return Triangles(np.asarray(mesh.vertices), triangles, np.zeros(len(triangles), int), ("body 1",), "mm")


def form_of(mesh: trimesh.Trimesh, crease: float = 30.0):
    return form_from_triangles(given(mesh), "made.stl", crease)
