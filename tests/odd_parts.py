"""Parts that are legal and awkward: faces that end in poles, whatever surface they are of, and blocks that unfold edge to edge."""

from __future__ import annotations

import math

from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakePolygon, BRepBuilderAPI_NurbsConvert
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakePrism,
    BRepPrimAPI_MakeSphere,
)
from OCP.Geom import Geom_BezierSurface
from OCP.GeomAPI import GeomAPI_PointsToBSpline
from OCP.GeomFill import GeomFill
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt, gp_Vec
from OCP.TColgp import TColgp_Array1OfPnt, TColgp_Array2OfPnt
from OCP.TopAbs import TopAbs_FACE
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS

UP = gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1))


def first_face(shape):
    return TopoDS.Face_s(TopExp_Explorer(shape, TopAbs_FACE).Current())


def wedge(degrees, low=0.0):
    """A spherical face of radius 50 between two meridians, from the latitude ``low`` to the pole."""
    return first_face(BRepPrimAPI_MakeSphere(UP, 50, low, math.pi / 2, math.radians(degrees)).Shape())


def as_splines(shape):
    return BRepBuilderAPI_NurbsConvert(shape, True).Shape()


def patch(rows):
    """A Bézier patch by its rows of control points."""
    control = TColgp_Array2OfPnt(1, len(rows), 1, len(rows[0]))
    for i, row in enumerate(rows):
        for j, point in enumerate(row):
            control.SetValue(i + 1, j + 1, gp_Pnt(*map(float, point)))
    return BRepBuilderAPI_MakeFace(Geom_BezierSurface(control), 1e-6).Face()


def helical_strip(turns, inner, outer, pitch):
    """A strip between two helices: nearly developable, and its flat comes round on itself."""
    angle = [2 * math.pi * turns * k / 60 for k in range(61)]
    sides = []
    for radius in (inner, outer):
        points = TColgp_Array1OfPnt(1, len(angle))
        for i, a in enumerate(angle):
            points.SetValue(i + 1, gp_Pnt(radius * math.cos(a), radius * math.sin(a), pitch * a / 2 / math.pi))
        sides.append(GeomAPI_PointsToBSpline(points).Curve())
    return BRepBuilderAPI_MakeFace(GeomFill.Surface_s(*sides), 1e-6).Face()


def prism(corners, height):
    wire = BRepBuilderAPI_MakePolygon()
    for x, y in corners:
        wire.Add(gp_Pnt(x, y, 0))
    wire.Close()
    return BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(wire.Wire()).Face(), gp_Vec(0, 0, height)).Shape()


def pocketed():
    block, pocket = BRepPrimAPI_MakeBox(100, 80, 40), BRepPrimAPI_MakeBox(gp_Pnt(20, 20, 15), gp_Pnt(70, 60, 60))
    return BRepAlgoAPI_Cut(block.Shape(), pocket.Shape()).Shape()


TRIANGLE = [[(0, 0, 0)] * 3, [(30, -20, 10), (30, 0, 20), (30, 20, 10)], [(60, -40, 0), (60, 0, 15), (60, 40, 0)]]
LENS = [[(0, 0, 0)] * 3, [(30, -30, 10), (30, 0, 25), (30, 30, 10)], [(60, -30, 10), (60, 0, 25), (60, 30, 10)],
        [(90, 0, 0)] * 3]  # fmt: skip

SADDLE = [[(0, 0, 0), (0, 50, 30), (0, 100, 0)], [(50, 0, -30), (50, 50, 0), (50, 100, -30)],
          [(100, 0, 0), (100, 50, 30), (100, 100, 0)]]  # fmt: skip

TO_POLES = {
    "wedge_60": lambda: wedge(60),
    "wedge_60_splines": lambda: as_splines(wedge(60)),
    "octant": lambda: wedge(90),
    "gore": lambda: wedge(45, -math.pi / 2),
    "gore_splines": lambda: as_splines(wedge(45, -math.pi / 2)),
    "triangle": lambda: patch(TRIANGLE),
    "triangle_other_way": lambda: patch(list(zip(*TRIANGLE, strict=True))),
    "lens": lambda: patch(LENS),
}
"""Doubly curved faces with one pole or two."""

ODD_PARTS = {
    **TO_POLES,
    "flat_triangle": lambda: patch([[(0, 0, 0)] * 2, [(60, -40, 0), (60, 40, 0)]]),
    "tip_sector": lambda: first_face(BRepPrimAPI_MakeCone(UP, 80, 0, 100, math.radians(100)).Shape()),
    "tip_up": lambda: BRepPrimAPI_MakeCone(UP, 80, 0, 100).Shape(),
    "tip_down": lambda: BRepPrimAPI_MakeCone(UP, 0, 80, 100).Shape(),
    "ball_splines": lambda: as_splines(BRepPrimAPI_MakeSphere(50).Shape()),
    "L": lambda: prism([(0, 0), (80, 0), (80, 30), (30, 30), (30, 70), (0, 70)], 40),
    "U": lambda: prism([(0, 0), (90, 0), (90, 70), (60, 70), (60, 30), (30, 30), (30, 70), (0, 70)], 25),
    "pocketed": pocketed,
    "saddle": lambda: patch(SADDLE),
    "strip_of_two_turns": lambda: helical_strip(2.2, 80, 84, 30),
    "steep_strip": lambda: helical_strip(1.2, 40, 50, 20),
}
