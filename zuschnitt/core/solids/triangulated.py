"""Shapes of the kernel as triangles."""

from __future__ import annotations

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.TopAbs import TopAbs_FACE, TopAbs_REVERSED
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Shape

from ..errors import CannotBeDone
from ..form.joined_triangles import joined_triangles
from ..geometry.curves import Array
from ..kernel.forms import form_of_shape
from .boxes import box_of
from .explore import each

FINE, TURN = 5e-4, 0.05
"""Flat bodies are looked at as triangles within this part of their size, that turn by so many radians at most."""


def triangles_of(shape: TopoDS_Shape, turn: float = TURN, off: float | None = None) -> tuple[Array, np.ndarray]:
    """Points (n, 3) and triangles (t, 3) of a shape, outwards, that turn by so many radians at most.

    They keep within ``off`` mm of it, or within ``FINE`` of its size.
    """
    low, high = box_of(shape)
    BRepMesh_IncrementalMesh(shape, off or FINE * float(np.linalg.norm(high - low)), False, turn, False)
    points: list[Array] = []
    triangles: list[np.ndarray] = []
    count = 0
    for face in each(shape, TopAbs_FACE):
        place = TopLoc_Location()
        mesh = BRep_Tool.Triangulation_s(TopoDS.Face_s(face), place)
        if mesh is None:
            raise CannotBeDone("The body cannot be looked at as triangles; mend it and export it again.")
        move = place.Transformation()
        nodes = [mesh.Node(i).Transformed(move) for i in range(1, mesh.NbNodes() + 1)]
        points.append(np.array([[p.X(), p.Y(), p.Z()] for p in nodes]))
        corners = np.array([mesh.Triangle(i).Get() for i in range(1, mesh.NbTriangles() + 1)]) - 1
        triangles.append((corners[:, ::-1] if face.Orientation() == TopAbs_REVERSED else corners) + count)
        count += len(nodes)
    return np.vstack(points), np.vstack(triangles)


def even_triangles(shape: TopoDS_Shape) -> tuple[Array, np.ndarray]:
    """Points (n, 3) and triangles (t, 3) of a shape, outwards and none of them slender, so that it can be bent."""
    return joined_triangles(form_of_shape(shape, "body", look=False))
