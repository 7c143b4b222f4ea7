"""The geometry kernel, behind this one module: STEP in and out.

The kernel is large, slow to import and may crash on bad geometry; nothing but the engine process and
the command line imports this module, and only when a STEP file is read or written.
"""

from __future__ import annotations

import os
import re
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path

import numpy as np
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Curve2d, BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge
from OCP.BRepGProp import BRepGProp
from OCP.BRepTools import BRepTools, BRepTools_WireExplorer
from OCP.GC import GC_MakeArcOfCircle
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.Geom import Geom_BSplineCurve, Geom_RectangularTrimmedSurface
from OCP.GeomAbs import GeomAbs_CurveType as CurveType
from OCP.GeomAbs import GeomAbs_Shape, GeomAbs_SurfaceType
from OCP.GeomConvert import GeomConvert, GeomConvert_ApproxSurface
from OCP.gp import gp_Pnt
from OCP.GProp import GProp_GProps
from OCP.IFSelect import IFSelect_RetDone
from OCP.Interface import Interface_Static
from OCP.Message import Message
from OCP.STEPControl import STEPControl_AsIs, STEPControl_Reader, STEPControl_Writer
from OCP.TColgp import TColgp_Array1OfPnt
from OCP.TColStd import TColStd_Array1OfInteger, TColStd_Array1OfReal, TColStd_SequenceOfAsciiString
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_FORWARD, TopAbs_REVERSED, TopAbs_SOLID, TopAbs_WIRE
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Compound, TopoDS_Shape
from OCP.TopTools import TopTools_IndexedMapOfShape
from scipy.interpolate import make_interp_spline

from ..contour import Contour, arc_centre
from ..errors import CannotBeDone, Refused
from ..progress import SILENT, Progress
from ..tolerances import OUTLINE
from .area import face_area
from .build import connected
from .curves import Array, Curve, Ellipse, Line, Spline, parameters_within
from .developable import with_flat
from .form import POLE, Coedge, Edge, Face, Form, OnSurface
from .meshing import with_meshes
from .poles import with_poles_along_u
from .surfaces import (
    Cone,
    Cylinder,
    Extrusion,
    Frame,
    Plane,
    Revolution,
    Sphere,
    SplineSurface,
    Surface,
    Torus,
)

Message.DefaultMessenger_s().ChangePrinters().Clear()

UNITS = {"millimetre": "mm", "metre": "m", "centimetre": "cm", "inch": "in", "foot": "ft"}
POINT = 1e-7
"""An edge no larger than this is a point, in mm."""
ROUGH = 1e-3
"""Sizes are first compared as they are quickly found, each to this part of it; alike shapes come out alike."""
READ_BACK = 1e-6
"""What is read back of a STEP file may differ by this part of what was written."""
APPROXIMATED = 1e-7
"""Surfaces of rare kinds are replaced by B-splines within this distance, in mm."""


def read_step(path: Path, name: str = "", progress: Progress = SILENT) -> Form:
    """Reads a STEP file; lengths become mm, whatever the file's unit.

    Raises Refused for a file that is not STEP, is cut short, holds no faces, or faces without area.
    """
    name = name or path.name
    progress.step(0.05, f"reading {name}")
    reader = _opened(path, name)
    unit = _unit(reader)
    progress.step(0.3, "building faces")
    reader.TransferRoots()
    shape = reader.OneShape() if reader.NbShapes() else None
    faces = _indexed(shape, TopAbs_FACE) if shape is not None else None
    if faces is None or faces.Size() == 0:
        raise Refused(
            f"{name} holds no faces, only curves or points or nothing at all; export the part's surfaces or its body."
        )
    return form_of_shape(shape, name, unit, progress.part(0.4, 1.0))


def read_step_shape(content: bytes, name: str) -> TopoDS_Shape:
    """All that a STEP file holds, as one shape in mm. Raises Refused where it is not whole STEP, or holds nothing."""
    with _as_file(content) as path:
        reader = _opened(path, name)
        reader.TransferRoots()
        if not reader.NbShapes():
            raise Refused(f"{name} holds nothing that can be read; export the part again.")
        return reader.OneShape()


def form_of_shape(
    shape: TopoDS_Shape, name: str, unit: str = "mm", progress: Progress = SILENT, look: bool = True
) -> Form:
    """A shape of the kernel as a form whose faces are evaluated here.

    Whether they are developable is looked at later where not ``look``. Raises Refused for faces without area.
    """
    faces, edges = _indexed(shape, TopAbs_FACE), _indexed(shape, TopAbs_EDGE)
    made = []
    for i in range(1, faces.Size() + 1):
        progress.step(0.75 * i / faces.Size(), "reading faces")
        face = _face(i, TopoDS.Face_s(faces.FindKey(i)), edges, name)
        made.append(with_flat(face) if look else replace(face, looked_at=face.developable))
    form = Form(
        name,
        tuple(made),
        tuple(_edge(i, TopoDS.Edge_s(edges.FindKey(i))) for i in range(1, edges.Size() + 1)),
        unit=unit,
        source=name,
    )
    progress.step(0.75, "laying triangles")
    return with_meshes(connected(form))


def read_step_bytes(content: bytes, name: str, progress: Progress = SILENT) -> Form:
    """As ``read_step``, of a file's content."""
    with _as_file(content) as path:
        return read_step(path, name, progress)


@contextmanager
def _as_file(content: bytes) -> Iterator[Path]:
    """The kernel reads from a path only: one in memory, of which nothing stays however the process ends."""
    file = os.memfd_create("form")
    try:
        with open(file, "wb", closefd=False) as written:
            written.write(content)
        yield Path(f"/proc/{os.getpid()}/fd/{file}")
    finally:
        os.close(file)


def _opened(path: Path, name: str) -> STEPControl_Reader:
    """A reader that has read the file. Raises Refused where it is not whole STEP."""
    _require_step_text(path, name)
    reader = STEPControl_Reader()
    if reader.ReadFile(str(path)) != IFSelect_RetDone:
        raise Refused(f"{name} cannot be read as STEP: its contents are damaged; export it again.")
    return reader


def _require_step_text(path: Path, name: str) -> None:
    try:
        text = path.read_bytes()
    except OSError as error:
        reason = error.strerror or str(error)
        raise Refused(f"{name} cannot be read: {reason}; check the path.") from error
    if not text.strip():
        raise Refused(f"{name} is empty, so there is no form in it; export it again.")
    if b"ISO-10303-21" not in text[:1000]:
        raise Refused(f"{name} is not a STEP file (it does not begin with ISO-10303-21); choose another file.")
    if b"END-ISO-10303-21" not in text[-1000:]:
        raise Refused(f"{name} is cut short: its end is missing; copy or export it again.")
    if re.search(rb"[(,\s]([-+]?nan|[-+]?inf)\b", text, re.IGNORECASE):
        raise Refused(f"{name} has numbers that are not finite; export it again.")


def _unit(reader: STEPControl_Reader) -> str:
    lengths, angles, solids = (TColStd_SequenceOfAsciiString() for _ in range(3))
    reader.FileUnits(lengths, angles, solids)
    if lengths.Length() == 0:
        return "mm"
    found = lengths.Value(1).ToCString().lower()
    return UNITS.get(found, found)


def _indexed(shape, kind) -> TopTools_IndexedMapOfShape:
    found = TopTools_IndexedMapOfShape()
    TopExp.MapShapes_s(shape, kind, found)
    return found


def _vector(p) -> Array:
    return np.array([p.X(), p.Y(), p.Z()])


def _frame(position) -> Frame:
    axes = (position.XDirection(), position.YDirection(), position.Direction())
    return Frame(_vector(position.Location()), np.array([_vector(axis) for axis in axes]))


def _face(number: int, face, edges: TopTools_IndexedMapOfShape, name: str) -> Face:
    forward = TopoDS.Face_s(face.Oriented(TopAbs_FORWARD))
    bounds = BRepTools.UVBounds_s(forward)
    surface = _surface(BRepAdaptor_Surface(forward), bounds)
    outer = BRepTools.OuterWire_s(forward)
    loops: list[tuple[Coedge, ...]] = []
    explorer = TopExp_Explorer(forward, TopAbs_WIRE)
    while explorer.More():
        wire = TopoDS.Wire_s(explorer.Current())
        loop = _loop(wire, forward, edges)
        if loop:
            loops.insert(0 if wire.IsSame(outer) else len(loops), loop)
        explorer.Next()
    if not loops:
        raise Refused(f"Face {number} of {name} has no outline; repair it and export again.", faces=[number])
    made = with_poles_along_u(Face(number, surface, face.Orientation() == TopAbs_REVERSED, tuple(loops), 0.0))
    surface = made.surface
    area = face_area(made)
    extent = max(c.evaluate(np.linspace(a, b, 9)).std() for c, a, b in _space_curves(made, surface))
    if not np.isfinite(area) or area <= 1e-7 * max(extent, 1e-9) ** 2:
        raise Refused(f"Face {number} of {name} has no area; repair the form and export it again.", faces=[number])
    return replace(made, area=area)


def _space_curves(face: Face, surface: Surface):
    for loop in face.loops:
        for c in loop:
            yield OnSurface(surface, c.curve), c.start, c.end


def _loop(wire, face, edges: TopTools_IndexedMapOfShape) -> tuple[Coedge, ...]:
    coedges = []
    walk = BRepTools_WireExplorer(wire, face)
    while walk.More():
        edge = walk.Current()
        adaptor = BRepAdaptor_Curve2d(edge, face)
        first, last = adaptor.FirstParameter(), adaptor.LastParameter()
        if edge.Orientation() == TopAbs_REVERSED:
            first, last = last, first
        index = POLE if BRep_Tool.Degenerated_s(edge) or _is_point(edge) else edges.FindIndex(edge) - 1
        coedges.append(Coedge(index, _curve(adaptor, 2), first, last))
        walk.Next()
    return tuple(coedges)


def _is_point(edge) -> bool:
    """Whether an edge is a single point, though the file does not say so."""
    adaptor = BRepAdaptor_Curve(edge)
    t = np.linspace(adaptor.FirstParameter(), adaptor.LastParameter(), 5)
    at = np.array([_vector(adaptor.Value(float(s))) for s in t])
    return bool(np.ptp(at, axis=0).max() < POINT)


def _edge(number: int, edge) -> Edge:
    if BRep_Tool.Degenerated_s(edge):
        point = _vector(BRep_Tool.Pnt_s(TopExp.FirstVertex_s(edge)))
        return Edge(number, Line(point, np.zeros(3)), 0.0, 1.0, ())
    adaptor = BRepAdaptor_Curve(edge)
    return Edge(number, _curve(adaptor, 3), adaptor.FirstParameter(), adaptor.LastParameter(), ())


def _coordinates(p, dimension: int) -> Array:
    return np.array([p.X(), p.Y()] if dimension == 2 else [p.X(), p.Y(), p.Z()])


def _curve(adaptor, dimension: int) -> Curve:
    """Lines, circles, ellipses and B-splines as they are; other kinds by a spline in their parameter."""
    kind = adaptor.GetType()

    def vector(p) -> Array:
        return _coordinates(p, dimension)

    if kind == CurveType.GeomAbs_Line:
        line = adaptor.Line()
        return Line(vector(line.Location()), vector(line.Direction()))
    if kind in (CurveType.GeomAbs_Circle, CurveType.GeomAbs_Ellipse):
        circle = kind == CurveType.GeomAbs_Circle
        conic = adaptor.Circle() if circle else adaptor.Ellipse()
        radii = (conic.Radius(),) * 2 if circle else (conic.MajorRadius(), conic.MinorRadius())
        position = conic.Position() if dimension == 3 else conic.Axis()
        x = vector(position.XDirection()) * radii[0]
        y = vector(position.YDirection()) * radii[1]
        return Ellipse(vector(conic.Location()), x, y)
    if kind == CurveType.GeomAbs_BSplineCurve:
        return _spline(adaptor.BSpline(), dimension)
    t = np.linspace(adaptor.FirstParameter(), adaptor.LastParameter(), 401)
    points = np.array([vector(adaptor.Value(float(s))) for s in t])
    spline = make_interp_spline(t, points, 5)
    return Spline(spline.t, spline.c, 5)


def _spline(curve, dimension: int) -> Spline:
    if curve.IsPeriodic():
        curve = curve.Copy()
        curve.SetNotPeriodic()
    count = curve.NbPoles()
    control = np.array([_coordinates(curve.Pole(i), dimension) for i in range(1, count + 1)])
    weights = None
    if curve.IsRational():
        weights = np.array([curve.Weight(i) for i in range(1, count + 1)])
    knots = _flat_knots(curve.NbKnots(), curve.Knot, curve.Multiplicity)
    return Spline(knots, control, curve.Degree(), weights)


def _flat_knots(count: int, knot, multiplicity) -> Array:
    return np.repeat([knot(i) for i in range(1, count + 1)], [multiplicity(i) for i in range(1, count + 1)])


def _surface(adaptor: BRepAdaptor_Surface, bounds) -> Surface:
    kind = adaptor.GetType()
    types = GeomAbs_SurfaceType
    if kind == types.GeomAbs_Plane:
        return Plane(_frame(adaptor.Plane().Position()))
    if kind == types.GeomAbs_Cylinder:
        cylinder = adaptor.Cylinder()
        return Cylinder(_frame(cylinder.Position()), cylinder.Radius())
    if kind == types.GeomAbs_Cone:
        cone = adaptor.Cone()
        return Cone(_frame(cone.Position()), cone.RefRadius(), cone.SemiAngle())
    if kind == types.GeomAbs_Sphere:
        sphere = adaptor.Sphere()
        return Sphere(_frame(sphere.Position()), sphere.Radius())
    if kind == types.GeomAbs_Torus:
        torus = adaptor.Torus()
        return Torus(_frame(torus.Position()), torus.MajorRadius(), torus.MinorRadius())
    if kind == types.GeomAbs_SurfaceOfExtrusion:
        return Extrusion(_curve(adaptor.BasisCurve(), 3), _vector(adaptor.Direction()), bounds)
    if kind == types.GeomAbs_SurfaceOfRevolution:
        return Revolution(_axis_frame(adaptor.AxeOfRevolution()), _curve(adaptor.BasisCurve(), 3), bounds)
    if kind == types.GeomAbs_BSplineSurface:
        return _spline_surface(adaptor.BSpline())
    if kind == types.GeomAbs_BezierSurface:
        return _spline_surface(GeomConvert.SurfaceToBSplineSurface_s(adaptor.Bezier()))
    trimmed = Geom_RectangularTrimmedSurface(BRep_Tool.Surface_s(adaptor.Face()), *bounds)
    smooth = GeomAbs_Shape.GeomAbs_C1
    return _spline_surface(GeomConvert_ApproxSurface(trimmed, APPROXIMATED, smooth, smooth, 9, 9, 60, 1).Surface())


def _axis_frame(axis) -> Frame:
    """A frame whose z is the axis; the profile turned by angle 0 stays where it is."""
    z = _vector(axis.Direction())
    x = np.cross(z, np.eye(3)[np.argmin(np.abs(z))])
    x /= np.linalg.norm(x)
    return Frame(_vector(axis.Location()), np.array([x, np.cross(z, x), z]))


def _spline_surface(surface) -> SplineSurface:
    if surface.IsUPeriodic() or surface.IsVPeriodic():
        surface = surface.Copy()
        if surface.IsUPeriodic():
            surface.SetUNotPeriodic()
        if surface.IsVPeriodic():
            surface.SetVNotPeriodic()
    rows, columns = range(1, surface.NbUPoles() + 1), range(1, surface.NbVPoles() + 1)
    control = np.array([[_vector(surface.Pole(i, j)) for j in columns] for i in rows])
    weights = None
    if surface.IsURational() or surface.IsVRational():
        weights = np.array([[surface.Weight(i, j) for j in columns] for i in rows])
    degrees = surface.UDegree(), surface.VDegree()
    ruled = 1 in degrees
    return SplineSurface(
        _flat_knots(surface.NbUKnots(), surface.UKnot, surface.UMultiplicity),
        _flat_knots(surface.NbVKnots(), surface.VKnot, surface.VMultiplicity),
        control,
        *degrees,
        weights,
        ruled,
    )


def read_step_curves_bytes(content: bytes, name: str) -> list[tuple[Array, bool]]:
    """As ``read_step_curves``, of a file's content."""
    with _as_file(content) as path:
        return read_step_curves(path, name=name)


def read_step_curves(path: Path, points_each: int = 65, name: str = "") -> list[tuple[Array, bool]]:
    """The edges of a STEP file as points (n, 3) in mm each, within ``OUTLINE`` of the edge, and whether it is smooth.

    Each has ``points_each`` at least.
    """
    name = name or path.name
    reader = _opened(path, name)
    reader.TransferRoots()
    edges = _indexed(reader.OneShape(), TopAbs_EDGE) if reader.NbShapes() else None
    if edges is None or edges.Size() == 0:
        raise Refused(f"{name} holds no curves; export the curves you want to trace.")
    found = [_edge(i, TopoDS.Edge_s(edges.FindKey(i))) for i in range(1, edges.Size() + 1)]
    read = []
    for edge in found:
        polyline = isinstance(edge.curve, Spline) and edge.curve.degree == 1
        t = parameters_within(edge.curve.evaluate, edge.start, edge.end, OUTLINE)
        if isinstance(edge.curve, Spline):
            t = np.union1d(t, edge.curve.breaks[(edge.curve.breaks > edge.start) & (edge.curve.breaks < edge.end)])
        if not polyline:
            t = np.union1d(t, np.linspace(edge.start, edge.end, points_each))
        read.append((edge.curve.evaluate(t), not polyline))
    return read


def step_bytes(curves: Iterable[Spline | Line] = (), contours: Iterable[Contour] = ()) -> bytes:
    """Curves in space, and contours in the plane z = 0, as the edges of a STEP file. Lengths in mm.

    Raises CannotBeDone where there is nothing to write.
    """
    builder, compound = BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(compound)
    edges = [curve_edge(curve) for curve in curves]
    for contour in contours:
        edges.extend(span_edge(*span) for span in zip(*contour.spans, strict=True))
    if not edges:
        raise CannotBeDone("There are no curves to write as STEP; wrap or develop something first.")
    for edge in edges:
        builder.Add(compound, edge)
    return shape_bytes(compound, "curves")


def shape_bytes(shape: TopoDS_Shape, name: str = "plates") -> bytes:
    """A shape of the kernel as a STEP file."""
    return named_shapes_bytes([(name, shape)])


def named_shapes_bytes(shapes: Iterable[tuple[str, TopoDS_Shape]]) -> bytes:
    """Shapes of the kernel, each under its name, as a STEP file in mm, which is read back before it is given away.

    Raises CannotBeDone where what is read is not what was written.
    """
    shapes = list(shapes)
    writer = STEPControl_Writer()
    Interface_Static.SetCVal_s("write.step.unit", "MM")
    for name, shape in shapes:
        Interface_Static.SetCVal_s("write.step.product.name", name)
        writer.Transfer(shape, STEPControl_AsIs)
    with _as_file(b"") as path:
        if writer.Write(str(path)) != IFSelect_RetDone:
            raise Refused("The STEP file could not be written; free some space. Nothing was written.")
        content = path.read_bytes()
    _require_same(content, [shape for _, shape in shapes])
    return content


def _require_same(content: bytes, shapes: Sequence[TopoDS_Shape]) -> None:
    """Raises CannotBeDone where a STEP file does not hold shapes of the same size."""
    read = read_step_shape(content, "The STEP file")
    rough = [_extent(each, ROUGH) for each in (shapes, [read])]
    fine = None
    for k, (what, unit, quick) in enumerate(rough[0]):
        should, found = quick, rough[1][k][2]
        if abs(found - should) > READ_BACK * max(abs(should), 1.0):  # measured quickly they may differ
            fine = fine or [_extent(each, 0.0) for each in (shapes, [read])]
            should, found = fine[0][k][2], fine[1][k][2]
        if abs(found - should) > READ_BACK * max(abs(should), 1.0):
            if what == "edges" and _same_edges(shapes, read):  # the quick measure is not the same for all knots
                continue
            raise CannotBeDone(
                f"The STEP file that was made holds {what} of {found:.9g} {unit}, not {should:.9g} {unit}, so it "
                "is not written. Write another kind of file, and please report it."
            )


def _same_edges(shapes: Sequence[TopoDS_Shape], read: TopoDS_Shape) -> bool:
    """Whether edges have the same lengths, each measured until it is certain."""
    wanted, found = (
        np.sort([
            GCPnts_AbscissaPoint.Length_s(BRepAdaptor_Curve(edge), READ_BACK)
            for edges in (_indexed(shape, TopAbs_EDGE) for shape in each)
            for edge in (TopoDS.Edge_s(edges.FindKey(k)) for k in range(1, edges.Size() + 1))
            if not BRep_Tool.Degenerated_s(edge)
        ])
        for each in (shapes, [read])
    )  # fmt: skip
    return len(wanted) == len(found) and bool((np.abs(wanted - found) <= READ_BACK * np.maximum(wanted, 1.0)).all())


def _extent(shapes: Sequence[TopoDS_Shape], accuracy: float) -> list[tuple[str, str, float]]:
    """How many bodies shapes have, and the sizes of their bodies, faces and edges, to this part of them, or to all."""
    to = (accuracy,) if accuracy else ()
    solids = [solids.FindKey(k) for solids in (_indexed(s, TopAbs_SOLID) for s in shapes)
              for k in range(1, solids.Size() + 1)]  # fmt: skip
    return [
        ("bodies", "in all", float(len(solids))),
        ("bodies", "mm³", sum(_mass(BRepGProp.VolumeProperties_s, solid, *to) for solid in solids)),
        ("faces", "mm²", sum(_mass(BRepGProp.SurfaceProperties_s, shape, *to) for shape in shapes)),
        ("edges", "mm", sum(_mass(BRepGProp.LinearProperties_s, shape) for shape in shapes)),
    ]


def _mass(measure: Callable[..., object], shape: TopoDS_Shape, *accuracy: float) -> float:
    found = GProp_GProps()
    measure(shape, found, *accuracy)
    return float(found.Mass())


def span_edge(start: Array, end: Array, bulge: float):
    """The kernel's edge for a span of a contour, in the plane z = 0."""
    a, b = gp_Pnt(*start, 0.0), gp_Pnt(*end, 0.0)
    if bulge == 0:
        return BRepBuilderAPI_MakeEdge(a, b).Edge()
    centre, radius, angle, sweep = arc_centre(start, end, bulge)
    middle = centre + radius * np.array([np.cos(angle + sweep / 2), np.sin(angle + sweep / 2)])
    return BRepBuilderAPI_MakeEdge(GC_MakeArcOfCircle(a, gp_Pnt(*middle, 0.0), b).Value()).Edge()


def curve_edge(curve: Spline | Line):
    if isinstance(curve, Line):
        a, b = curve.evaluate(np.array([0.0, 1.0]))
        return BRepBuilderAPI_MakeEdge(gp_Pnt(*a), gp_Pnt(*b)).Edge()
    knots, counts = np.unique(curve.knots, return_counts=True)
    poles = TColgp_Array1OfPnt(1, len(curve.control))
    for i, p in enumerate(curve.control):
        poles.SetValue(i + 1, gp_Pnt(*map(float, p)))
    values, multiplicities = TColStd_Array1OfReal(1, len(knots)), TColStd_Array1OfInteger(1, len(knots))
    for i, (knot, count) in enumerate(zip(knots.tolist(), counts.tolist(), strict=True)):
        values.SetValue(i + 1, knot)
        multiplicities.SetValue(i + 1, count)
    made = Geom_BSplineCurve(poles, values, multiplicities, curve.degree)
    return BRepBuilderAPI_MakeEdge(made).Edge()
