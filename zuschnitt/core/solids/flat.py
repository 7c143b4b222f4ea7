"""Flat bodies: what stands on a blank, made from contours in the plane z = 0."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

import numpy as np
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet
from OCP.BRepOffsetAPI import BRepOffsetAPI_DraftAngle
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.gp import gp_Dir, gp_Pln, gp_Pnt, gp_Vec
from OCP.ShapeAnalysis import ShapeAnalysis_ShapeTolerance
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE
from OCP.TopoDS import TopoDS, TopoDS_Face, TopoDS_Shape, TopoDS_Wire

from ..carry.path import Paths
from ..carry.smooth_runs import smooth_curve, smooth_groups
from ..geometry.curves import Spline
from ..kernel.edges import curve_edge, span_edge
from ..plane.contour import Contour
from .boxes import box_of
from .explore import each
from .placing import moved
from .smooth_arcs import curved_runs

SEWN = 1e-3
"""Faces that meet no nearer than this, in mm, leave gaps."""


def prism(outer: Contour, low: float, high: float, hole: Contour | None = None, arcs: bool = False) -> TopoDS_Shape:
    """What lies within a closed contour, and not in its ``hole``, from the height ``low`` to ``high``, both in mm.

    With ``arcs`` every arc stays one: walls along smooth curves can be neither drawn in nor rounded by the kernel.
    """
    flat = moved(face_within(outer, hole, arcs), (0.0, 0.0, low))
    return BRepPrimAPI_MakePrism(flat, gp_Vec(0, 0, high - low)).Shape()


def face_within(outer: Contour, hole: Contour | None = None, arcs: bool = False) -> TopoDS_Face:
    """The flat face within a closed contour, and not in its ``hole``."""
    made = BRepBuilderAPI_MakeFace(wire(outer, arcs), True)
    if hole is not None:
        made.Add(TopoDS.Wire_s(wire(hole).Reversed()))
    return made.Face()


def wire(contour: Contour, arcs: bool = False) -> TopoDS_Wire:
    """A closed contour, anticlockwise."""
    return wire_along(contour if contour.area > 0 else contour.reversed(), arcs)


def wire_along(contour: Contour, arcs: bool = False) -> TopoDS_Wire:
    """A contour as it runs. Many short lines that stand for a smooth curve are one edge; arcs too, but for ``arcs``."""
    paths = Paths.of([contour])
    made = BRepBuilderAPI_MakeWire()
    for spans, curve in _smooth(paths, arcs):
        if curve is not None:
            control = np.column_stack([curve.control, 0 * curve.control[:, 0]])
            made.Add(curve_edge(Spline(curve.knots, control, curve.degree)))
            continue
        for k in spans.tolist():
            made.Add(span_edge(paths.start[k], paths.end[k], float(paths.bulge[k])))
    return made.Wire()


def _smooth(paths: Paths, arcs: bool) -> Iterator[tuple[np.ndarray, Spline | None]]:
    """The spans of a contour in order, with the curve that some of them stand for together."""
    for run, curve in [(np.arange(len(paths.bulge)), None)] if arcs else curved_runs(paths):
        if curve is not None:
            yield run, curve
            continue
        for group in smooth_groups(paths, run):
            yield group, smooth_curve(paths, group) if len(group) > 1 else None


def drafted(body: TopoDS_Shape, degrees: float, base: float, up: bool) -> TopoDS_Shape | None:
    """The walls of a prism drawn in by an angle towards its free end; where it stands, at ``base``, it stays as it is.

    None where the kernel cannot.
    """
    made = BRepOffsetAPI_DraftAngle(body)
    way = gp_Dir(0, 0, 1 if up else -1)
    plane = gp_Pln(gp_Pnt(0, 0, base), gp_Dir(0, 0, 1))
    for face in each(body, TopAbs_FACE):
        if not _level(face):
            made.Add(TopoDS.Face_s(face), way, float(np.radians(degrees)), plane)
            if not made.AddDone():
                return None
    made.Build()
    return made.Shape() if made.IsDone() else None


def rounded(body: TopoDS_Shape, radius: float, at: float) -> TopoDS_Shape | None:
    """The edges round the end at height ``at`` rounded; None where the kernel cannot.

    Where lines turn a little each, it gives what is not valid, or sewn over gaps.
    """
    made = BRepFilletAPI_MakeFillet(body)
    for edge in each(body, TopAbs_EDGE):
        low, high = box_of(edge)
        if abs(low[2] - at) < 1e-7 and abs(high[2] - at) < 1e-7:
            made.Add(radius, TopoDS.Edge_s(edge))
    try:
        made.Build()
        if not made.IsDone():
            return None
        shape = made.Shape()
    except Exception:  # the kernel's own errors have no common kind
        return None
    sewn = ShapeAnalysis_ShapeTolerance().Tolerance(shape, 1) > SEWN
    return None if sewn or not BRepCheck_Analyzer(shape).IsValid() else shape


def _level(face: TopoDS_Shape) -> bool:
    low, high = box_of(face)
    return bool(high[2] - low[2] < 1e-7)


def without(body: TopoDS_Shape, others: Iterable[TopoDS_Shape]) -> TopoDS_Shape:
    for other in others:
        body = BRepAlgoAPI_Cut(body, other).Shape()
    return body


def together(bodies: Sequence[TopoDS_Shape]) -> TopoDS_Shape:
    found = bodies[0]
    for other in bodies[1:]:
        found = BRepAlgoAPI_Fuse(found, other).Shape()
    return found
