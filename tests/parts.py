"""Parts for tests, made by the geometry kernel and written as real STEP files."""

from __future__ import annotations

import math
from pathlib import Path

from OCP.BRepAlgoAPI import BRepAlgoAPI_Common, BRepAlgoAPI_Cut
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_Transform,
)
from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet
from OCP.BRepOffsetAPI import BRepOffsetAPI_ThruSections
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakePrism,
    BRepPrimAPI_MakeRevol,
    BRepPrimAPI_MakeSphere,
    BRepPrimAPI_MakeTorus,
)
from OCP.GC import GC_MakeArcOfCircle, GC_MakeSegment
from OCP.GeomAPI import GeomAPI_PointsToBSpline
from OCP.gp import gp_Ax1, gp_Ax2, gp_Circ, gp_Dir, gp_Pln, gp_Pnt, gp_Trsf, gp_Vec
from OCP.Interface import Interface_Static
from OCP.STEPControl import STEPControl_AsIs, STEPControl_Writer
from OCP.TColgp import TColgp_Array1OfPnt
from OCP.TopAbs import TopAbs_EDGE
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS

from .odd_parts import ODD_PARTS

BEND_RADIUS, BEND_FLANGE, BEND_BASE, BEND_WIDTH = 12.0, 40.0, 70.0, 90.0


def bend():
    """Base, bend and flange at 90 degrees, as one open shell: a smooth chain of three faces."""
    r = BEND_RADIUS
    a, b = gp_Pnt(0, 0, 0), gp_Pnt(BEND_BASE, 0, 0)
    c, d = gp_Pnt(BEND_BASE + r, 0, r), gp_Pnt(BEND_BASE + r, 0, r + BEND_FLANGE)
    middle = gp_Pnt(BEND_BASE + r * math.sin(math.pi / 4), 0, r - r * math.cos(math.pi / 4))
    wire = BRepBuilderAPI_MakeWire(
        BRepBuilderAPI_MakeEdge(a, b).Edge(),
        BRepBuilderAPI_MakeEdge(GC_MakeArcOfCircle(b, middle, c).Value()).Edge(),
        BRepBuilderAPI_MakeEdge(c, d).Edge(),
    ).Wire()
    return BRepPrimAPI_MakePrism(wire, gp_Vec(0, BEND_WIDTH, 0)).Shape()


def spline_edge():
    points = TColgp_Array1OfPnt(1, 5)
    for i, (x, z) in enumerate([(30, 0), (45, 20), (40, 50), (60, 80), (55, 100)]):
        points.SetValue(i + 1, gp_Pnt(x, 0, z))
    return BRepBuilderAPI_MakeEdge(GeomAPI_PointsToBSpline(points).Curve()).Edge()


def rounded():
    box = BRepPrimAPI_MakeBox(100, 60, 40).Shape()
    fillet = BRepFilletAPI_MakeFillet(box)
    edges = TopExp_Explorer(box, TopAbs_EDGE)
    while edges.More():
        fillet.Add(8, TopoDS.Edge_s(edges.Current()))
        edges.Next()
    return fillet.Shape()


def oblique_tube():
    """A tube of radius 50 whose upper end is cut at 45 degrees, from height 70 to 170."""
    tube = BRepPrimAPI_MakeCylinder(50, 300).Shape()
    wedge = BRepPrimAPI_MakeBox(gp_Pnt(-200, -200, 0), gp_Pnt(200, 200, 400)).Shape()
    turn = gp_Trsf()
    turn.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 1, 0)), math.radians(45))
    lift = gp_Trsf()
    lift.SetTranslation(gp_Vec(0, 0, 120))
    wedge = BRepBuilderAPI_Transform(wedge, lift.Multiplied(turn), True).Shape()
    return BRepAlgoAPI_Cut(tube, wedge).Shape()


def drilled_tube():
    """A tube of radius 50 with a hole of radius 15 through one side, at x = 50, z = 60."""
    tube = BRepPrimAPI_MakeCylinder(50, 120).Shape()
    drill = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(0, 0, 60), gp_Dir(1, 0, 0)), 15, 100).Shape()
    return BRepAlgoAPI_Cut(tube, drill).Shape()


def three_smooth():
    """Cylinder, plane, cylinder bent the other way: a smooth chain that a curve can cross."""
    a, b = gp_Pnt(-30, 0, 30), gp_Pnt(0, 0, 0)
    c, d = gp_Pnt(50, 0, 0), gp_Pnt(70, 0, -20)
    h = math.sqrt(0.5)
    first = GC_MakeArcOfCircle(a, gp_Pnt(-30 * h, 0, 30 - 30 * h), b).Value()
    second = GC_MakeArcOfCircle(c, gp_Pnt(50 + 20 * h, 0, -20 + 20 * h), d).Value()
    wire = BRepBuilderAPI_MakeWire(
        BRepBuilderAPI_MakeEdge(first).Edge(),
        BRepBuilderAPI_MakeEdge(b, c).Edge(),
        BRepBuilderAPI_MakeEdge(second).Edge(),
    ).Wire()
    return BRepPrimAPI_MakePrism(wire, gp_Vec(0, 80, 0)).Shape()


def profile(*pieces):
    """A wire in x and z from the origin: (length, 0) is straight on, (radius, degrees) an arc that turns, sharp for 0."""
    wire, at, heading = BRepBuilderAPI_MakeWire(), (0.0, 0.0), 0.0
    for size, degrees in pieces:
        turn = math.radians(degrees)
        if size == 0:
            heading += turn
            continue
        chord = size if degrees == 0 else 2 * size * math.sin(abs(turn) / 2)
        sag = 0 if degrees == 0 else size * (1 - math.cos(turn / 2)) * math.copysign(1, turn)
        along = heading + turn / 2
        end = (at[0] + chord * math.cos(along), at[1] + chord * math.sin(along))
        middle = ((at[0] + end[0]) / 2 + sag * math.sin(along), (at[1] + end[1]) / 2 - sag * math.cos(along))
        a, m, b = (gp_Pnt(x, 0, z) for x, z in (at, middle, end))
        wire.Add(
            BRepBuilderAPI_MakeEdge(
                GC_MakeArcOfCircle(a, m, b).Value() if degrees else GC_MakeSegment(a, b).Value()
            ).Edge()
        )
        at, heading = end, heading + turn
    return wire.Wire()


def joggle():
    """Flat, an arc of 3 mm up, an arc of 5 mm back, flat: a smooth chain with jumps of curvature."""
    return BRepPrimAPI_MakePrism(profile((20, 0), (3, 90), (5, -90), (30, 0)), gp_Vec(0, 80, 0)).Shape()


def bent_sheet():
    """A solid sheet 2 mm thick: flat 40, up round 3 (inside), flat 20, back round 4 (inside), flat 30; 60 mm wide."""
    below = (40, 0), (5, 90), (20, 0), (4, -90), (30, 0)
    above = (30, 0), (6, 90), (20, 0), (3, -90), (40, 0)
    outline = profile(*below, (0, 90), (2, 0), (0, 90), *above, (0, 90), (2, 0))
    return BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(outline).Face(), gp_Vec(0, 60, 0)).Shape()


def sine(periods, amplitude):
    """A sheet 100 mm long, whose profile is a sine: one face that bends to and fro."""
    count = 30 * periods
    points = TColgp_Array1OfPnt(1, count + 1)
    for i in range(count + 1):
        points.SetValue(i + 1, gp_Pnt(100 * i / count, 0, amplitude * math.sin(2 * math.pi * periods * i / count)))
    edge = BRepBuilderAPI_MakeEdge(GeomAPI_PointsToBSpline(points).Curve()).Edge()
    return BRepPrimAPI_MakePrism(edge, gp_Vec(0, 80, 0)).Shape()


def quarter_dome():
    """A quarter of a half sphere of radius 50: no seam, one pole."""
    return BRepAlgoAPI_Common(
        BRepPrimAPI_MakeSphere(50).Shape(), BRepPrimAPI_MakeBox(gp_Pnt(0, 0, 0), gp_Pnt(60, 60, 60)).Shape()
    ).Shape()


def loft():
    """A ruled loft between circles of radius 80 and 40 that stand askew: a B-spline face that is an oblique cone."""
    made = BRepOffsetAPI_ThruSections(False, True)
    for radius, x, z in ((80, 0, 0), (40, 30, 100)):
        circle = gp_Circ(gp_Ax2(gp_Pnt(x, 0, z), gp_Dir(0, 0, 1)), radius)
        made.AddWire(BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(circle).Edge()).Wire())
    made.Build()
    return made.Shape()


PARTS = {
    "loft": loft,
    "box": lambda: BRepPrimAPI_MakeBox(100, 60, 40).Shape(),
    "box_inch": lambda: BRepPrimAPI_MakeBox(100, 60, 40).Shape(),
    "cone": lambda: BRepPrimAPI_MakeCone(100, 40, 150).Shape(),
    "apex": lambda: BRepPrimAPI_MakeCone(100, 0, 150).Shape(),
    "tube": lambda: BRepPrimAPI_MakeCylinder(50, 120).Shape(),
    "dome": lambda: BRepPrimAPI_MakeSphere(gp_Pnt(0, 0, 0), 50, 0, math.pi / 2, 2 * math.pi).Shape(),
    "ball": lambda: BRepPrimAPI_MakeSphere(50).Shape(),
    "ring": lambda: BRepPrimAPI_MakeTorus(50, 20).Shape(),
    "vase": lambda: BRepPrimAPI_MakeRevol(spline_edge(), gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1))).Shape(),
    "wave": lambda: BRepPrimAPI_MakePrism(spline_edge(), gp_Vec(0, 70, 0)).Shape(),
    "curve": lambda: BRepBuilderAPI_MakeEdge(gp_Pnt(0, 0, 0), gp_Pnt(1, 1, 1)).Edge(),
    "square": lambda: BRepBuilderAPI_MakeFace(gp_Pln(), 0, 80, 0, 50).Face(),
    "bend": bend,
    "rounded": rounded,
    "oblique_tube": oblique_tube,
    "drilled_tube": drilled_tube,
    "three_smooth": three_smooth,
    "quarter_dome": quarter_dome,
    "joggle": joggle,
    "bent_sheet": bent_sheet,
    "sine": lambda: sine(1, 30),
    "waves": lambda: sine(8, 4),
}


PARTS.update(ODD_PARTS)


def write(path: Path, name: str) -> None:
    """Writes the part; one whose name ends in _inch in inches."""
    writer = STEPControl_Writer()
    Interface_Static.SetCVal_s("write.step.unit", "INCH" if name.endswith("_inch") else "MM")
    writer.Transfer(PARTS[name](), STEPControl_AsIs)
    writer.Write(str(path))
    Interface_Static.SetCVal_s("write.step.unit", "MM")
