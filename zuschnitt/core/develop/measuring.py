"""The stretch of faces that were laid flat by their charts."""

from __future__ import annotations

from collections.abc import Collection

import numpy as np

from ..correspondence import Correspondence
from ..form.form import Form
from ..form.meshing import chart_meshes, faces_of
from ..form.unwrapped import Unwrapped
from ..geometry.curves import Array
from ..progress import SILENT, Progress
from .blank import StretchMesh


def measured(
    form: Form,
    unwrapped: dict[int, Unwrapped],
    correspondence: Correspondence,
    numbers: Collection[int],
    edge_length: float | None = None,
    progress: Progress = SILENT,
) -> StretchMesh:
    """Triangles, with their stretch, of the faces ``numbers``, as the correspondence lays them."""
    from .sheet import stretch_mesh, triangle_size  # sparse solvers are slow to import

    mine = [unwrapped[n] for n in numbers]
    leaves = {leaf.face: leaf for leaf in correspondence.leaves}
    h = triangle_size(form.area(numbers), edge_length)
    meshes = chart_meshes(form, mine, [h] * len(mine), sag=h, progress=progress)
    blank = np.vstack([
        leaves[n].chart_to_blank(mesh.points_chart) for n, mesh in zip(numbers, meshes, strict=True)
    ])  # fmt: skip
    offsets = np.cumsum([0, *(len(m.points_chart) for m in meshes)])
    triangles = np.vstack([m.triangles + o for m, o in zip(meshes, offsets, strict=False)])
    points = np.vstack([m.points_form for m in meshes])
    keep = _with_area(points, triangles)
    return stretch_mesh(points, triangles[keep], blank, faces_of(meshes)[keep])


def _with_area(points: Array, triangles: np.ndarray) -> np.ndarray:
    """Leaves out triangles that shrink to a line at a pole."""
    a, b, c = (points[triangles[:, k]] for k in range(3))
    double = np.linalg.norm(np.cross(b - a, c - a), axis=1)
    longest = np.maximum(np.linalg.norm(b - a, axis=1), np.linalg.norm(c - a, axis=1))
    return (double > 1e-6 * longest**2) & (np.linalg.norm(b - a, axis=1) > 1e-9)
