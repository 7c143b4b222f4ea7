"""Points inside solids: what a body must or must not hold after it was united with others, or cut by them."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import product
from typing import Any

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepClass import BRepClass_FaceClassifier
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepLProp import BRepLProp_SLProps
from OCP.gp import gp_Pnt, gp_Pnt2d
from OCP.TopAbs import TopAbs_FACE, TopAbs_IN, TopAbs_REVERSED, TopAbs_SOLID
from OCP.TopoDS import TopoDS, TopoDS_Shape

from .explore import each

DEEP = 0.01
"""Points lie so many mm below the surface of a solid."""
FACES = 4
"""So many faces of a solid are looked at, from among all of them."""
PLACES = (0.5, 0.27, 0.73)
SURE = 1e-4
"""Nearer than this in mm to a surface, nothing is said of a point."""


def inner_points(solid: TopoDS_Shape) -> list[gp_Pnt]:
    """Points just below some faces of a solid, and within it."""
    faces = [TopoDS.Face_s(face) for face in each(solid, TopAbs_FACE)]
    chosen = faces[:: max(1, len(faces) // FACES)]
    found = [point for face in chosen if (point := below(face)) is not None]
    return [point for point, within in zip(found, held(solid, found), strict=True) if within]


def below(face: Any) -> gp_Pnt | None:
    """A point just below a face, well within its outline; None where none is found."""
    surface = BRepAdaptor_Surface(face)
    u0, u1 = surface.FirstUParameter(), surface.LastUParameter()
    v0, v1 = surface.FirstVParameter(), surface.LastVParameter()
    step = DEEP if face.Orientation() == TopAbs_REVERSED else -DEEP
    for u, v in product(PLACES, PLACES):
        at = gp_Pnt2d(u0 + u * (u1 - u0), v0 + v * (v1 - v0))
        if BRepClass_FaceClassifier(face, at, BRep_Tool.Tolerance_s(face)).State() != TopAbs_IN:
            continue
        props = BRepLProp_SLProps(surface, at.X(), at.Y(), 1, 1e-9)
        if props.IsNormalDefined():
            p, way = props.Value(), props.Normal()
            return gp_Pnt(p.X() + step * way.X(), p.Y() + step * way.Y(), p.Z() + step * way.Z())
    return None


def held(body: TopoDS_Shape, points: Sequence[gp_Pnt]) -> list[bool]:
    """Which of the points one of the solids of a shape holds."""
    found = [False] * len(points)
    for solid in each(body, TopAbs_SOLID):
        asked = BRepClass3d_SolidClassifier(solid)
        for k, point in enumerate(points):
            if not found[k]:
                asked.Perform(point, SURE)
                found[k] = asked.State() == TopAbs_IN
    return found
