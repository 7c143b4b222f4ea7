"""A form as a shape of the geometry kernel: its faces on their true surfaces, sharing their edges."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence

import numpy as np
from OCP.BRep import BRep_Builder
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepLib import BRepLib
from OCP.Geom import (
    Geom_BSplineSurface,
    Geom_ConicalSurface,
    Geom_Curve,
    Geom_CylindricalSurface,
    Geom_Ellipse,
    Geom_Line,
    Geom_Plane,
    Geom_SphericalSurface,
    Geom_Surface,
    Geom_SurfaceOfLinearExtrusion,
    Geom_SurfaceOfRevolution,
    Geom_ToroidalSurface,
    Geom_TrimmedCurve,
)
from OCP.Geom2d import Geom2d_BSplineCurve, Geom2d_Curve, Geom2d_Ellipse, Geom2d_Line
from OCP.gp import gp_Ax1, gp_Ax2, gp_Ax3, gp_Ax22d, gp_Dir, gp_Dir2d, gp_Elips, gp_Elips2d, gp_Pnt, gp_Pnt2d
from OCP.ShapeFix import ShapeFix_Solid
from OCP.TColgp import TColgp_Array1OfPnt, TColgp_Array1OfPnt2d, TColgp_Array2OfPnt
from OCP.TColStd import TColStd_Array1OfInteger, TColStd_Array1OfReal, TColStd_Array2OfReal
from OCP.TopAbs import TopAbs_REVERSED
from OCP.TopoDS import (
    TopoDS_Compound,
    TopoDS_Edge,
    TopoDS_Face,
    TopoDS_Shape,
    TopoDS_Shell,
    TopoDS_Solid,
    TopoDS_Vertex,
    TopoDS_Wire,
)

from ..errors import CannotBeDone
from ..form.form import Body, Coedge, Edge, Face, Form, OnSurface
from ..geometry.curves import Array, Curve, Ellipse, Line, Spline
from ..geometry.surfaces import (
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
from ..kernel.step_out import shape_bytes

NEAR = 1e-7
"""The least tolerance of the kernel, in mm."""
MEET = 1e-5
"""Ends of edges nearer to each other than this, in mm, are one vertex."""
FITTED = 1e-6
"""A curve on a surface is replaced in space by a spline within this, in mm."""
MOST_POINTS = 4097
CLOSE = 1e-9
"""Knots nearer to each other than this part of a curve are one to the kernel."""


def form_step(form: Form) -> bytes:
    """The form as a STEP file, a closed one as a solid. Lengths in mm."""
    return shape_bytes(shape_of(form), "form")


def shape_of(form: Form, bodies: Sequence[Body] | None = None) -> TopoDS_Shape:
    """The form, or some of its ``bodies``, in the kernel: a solid for each closed one, a shell for each other one.

    Raises CannotBeDone for meshes, which have no surfaces that the kernel knows, and for what becomes no valid shape.
    """
    maker = _Maker(form)
    builder, compound = BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(compound)
    made = [_body(maker, body.faces) for body in (form.bodies if bodies is None else bodies)]
    for shape in made:
        if not BRepCheck_Analyzer(shape).IsValid():
            raise CannotBeDone(
                f"{form.name or 'The form'} does not become a valid shape for STEP; write its mesh instead."
            )
        builder.Add(compound, shape)
    return made[0] if len(made) == 1 else compound


def faces_of(form: Form, numbers: Iterable[int]) -> list[TopoDS_Shape]:
    """Some faces of a form in the kernel."""
    maker = _Maker(form)
    return [maker.face(form.face(number)) for number in numbers]


def _body(maker: _Maker, numbers: tuple[int, ...]) -> TopoDS_Shape:
    builder, shell = BRep_Builder(), TopoDS_Shell()
    builder.MakeShell(shell)
    uses: Counter[int] = Counter()
    for number in numbers:
        face = maker.form.face(number)
        builder.Add(shell, maker.face(face))
        uses.update(c.edge for loop in face.loops for c in loop if c.edge >= 0)
    if any(count != 2 for count in uses.values()):
        return shell
    shell.Closed(True)
    solid = TopoDS_Solid()
    builder.MakeSolid(solid)
    builder.Add(solid, shell)
    turned = ShapeFix_Solid(solid)
    turned.Perform()
    return turned.Solid()


class _Maker:
    """Vertices and edges of the kernel, each made once."""

    def __init__(self, form: Form) -> None:
        self.form = form
        self.builder = BRep_Builder()
        ends = [edge.curve.evaluate(np.array([edge.start, edge.end])) for edge in form.edges]
        self.points = np.vstack(ends) if ends else np.zeros((0, 3))
        self.vertex_of = _clusters(self.points)
        self.vertices: dict[int, TopoDS_Vertex] = {}
        self.edges: dict[int, TopoDS_Edge] = {}

    def vertex(self, number: int) -> TopoDS_Vertex:
        if number not in self.vertices:
            mine = self.points[self.vertex_of == number]
            at = mine.mean(axis=0)
            made = TopoDS_Vertex()
            reach = float(np.linalg.norm(mine - at, axis=1).max())
            self.builder.MakeVertex(made, gp_Pnt(*at.tolist()), max(NEAR, 2 * reach))
            self.vertices[number] = made
        return self.vertices[number]

    def pole(self, point: Array) -> TopoDS_Vertex:
        """The vertex of a point; one that is no end of an edge is made."""
        if len(self.points):
            gaps = np.linalg.norm(self.points - point, axis=1)
            if gaps.min() < MEET:
                return self.vertex(int(self.vertex_of[gaps.argmin()]))
        made = TopoDS_Vertex()
        self.builder.MakeVertex(made, gp_Pnt(*point.tolist()), NEAR)
        return made

    def edge(self, index: int) -> TopoDS_Edge:
        if index not in self.edges:
            edge = self.form.edges[index]
            curve, off = _in_space(edge)
            made = TopoDS_Edge()
            self.builder.MakeEdge(made, curve, max(NEAR, off))
            for k, orientation in ((2 * index, False), (2 * index + 1, True)):
                vertex = self.vertex(int(self.vertex_of[k]))
                self.builder.Add(made, vertex.Oriented(TopAbs_REVERSED) if orientation else vertex)
            self.builder.Range(made, edge.start, edge.end)
            self.edges[index] = made
        return self.edges[index]

    def face(self, face: Face) -> TopoDS_Shape:
        surface = surface_of(face.surface)
        made = TopoDS_Face()
        self.builder.MakeFace(made, surface, NEAR)
        walks = [c for loop in face.loops for c in loop]
        twice: dict[int, list[Coedge]] = {}
        for c in walks:
            twice.setdefault(c.edge, []).append(c)
        for edge, pair in twice.items():
            if edge < 0:
                continue
            curves = [_in_parameters(c.curve) for c in pair]
            if len(pair) == 2:
                first, second = (curves[0], curves[1]) if not pair[0].backwards else (curves[1], curves[0])
                self.builder.UpdateEdge(self.edge(edge), first, second, made, NEAR)
            else:
                self.builder.UpdateEdge(self.edge(edge), curves[0], made, NEAR)
            low, high = sorted((pair[0].start, pair[0].end))
            self.builder.Range(self.edge(edge), made, low, high)
        for loop in face.loops:
            wire = TopoDS_Wire()
            self.builder.MakeWire(wire)
            for c in loop:
                edge = self.edge(c.edge) if c.edge >= 0 else self._degenerated(face, c, made)
                self.builder.Add(wire, edge.Oriented(TopAbs_REVERSED) if c.backwards else edge)
            wire.Closed(True)
            self.builder.Add(made, wire)
        BRepLib.SameParameter_s(made, NEAR, True)
        return made.Oriented(TopAbs_REVERSED) if face.reversed else made

    def _degenerated(self, face: Face, coedge: Coedge, made: TopoDS_Face) -> TopoDS_Edge:
        edge = TopoDS_Edge()
        self.builder.MakeEdge(edge)
        low, high = sorted((coedge.start, coedge.end))
        self.builder.UpdateEdge(edge, _in_parameters(coedge.curve), made, NEAR)
        vertex = self.pole(face.surface.evaluate(coedge.ends[:1])[0])
        self.builder.Add(edge, vertex)
        self.builder.Add(edge, vertex.Oriented(TopAbs_REVERSED))
        self.builder.Degenerated(edge, True)
        self.builder.Range(edge, made, low, high)
        return edge


def _clusters(points: Array) -> np.ndarray:
    from ..plane.arrangement import clusters

    return clusters(points, MEET) if len(points) else np.zeros(0, int)


# --- curves -----------------------------------------------------------------------------------


def _in_space(edge: Edge) -> tuple[Geom_Curve, float]:
    """The kernel's curve of an edge, and how far in mm it may be off it."""
    curve = edge.curve
    if isinstance(curve, Line):
        size = float(np.linalg.norm(curve.direction))
        if abs(size - 1) < 1e-12:
            return Geom_Line(gp_Pnt(*curve.origin.tolist()), gp_Dir(*curve.direction.tolist())), 0.0
    elif isinstance(curve, Ellipse):
        made = _ellipse(curve)
        if made is not None:
            return made, 0.0
    elif isinstance(curve, Spline):
        return _spline(curve), 0.0
    return _fitted(edge)


def _ellipse(curve: Ellipse) -> Geom_Ellipse | None:
    """Where its axes stand square and the first is the longer one: the kernel knows no other."""
    major, minor = np.linalg.norm(curve.x_axis), np.linalg.norm(curve.y_axis)
    if abs(curve.x_axis @ curve.y_axis) > 1e-12 * major * minor or major < minor * (1 - 1e-15):
        return None
    normal = np.cross(curve.x_axis, curve.y_axis)
    axes = gp_Ax2(gp_Pnt(*curve.centre.tolist()), gp_Dir(*normal.tolist()), gp_Dir(*curve.x_axis.tolist()))
    return Geom_Ellipse(gp_Elips(axes, float(major), float(min(minor, major))))


def _fitted(edge: Edge) -> tuple[Geom_Curve, float]:
    """A spline over the edge's own parameter through points of it; short lines where it is made of such."""
    from scipy.interpolate import make_interp_spline

    flat = edge.curve.parameters if isinstance(edge.curve, OnSurface) else None
    jagged = isinstance(flat, Spline) and flat.degree == 1
    inner = flat.breaks if isinstance(flat, Spline) and jagged else np.zeros(0)
    breaks = np.r_[edge.start, inner[(inner > edge.start) & (inner < edge.end)], edge.end]
    count = 17
    while True:
        t = np.linspace(edge.start, edge.end, count)
        if jagged:
            each = max(1, count // len(breaks))
            t = np.unique((breaks[:-1, None] + np.diff(breaks)[:, None] * np.arange(each) / each).ravel())
            t = np.r_[t[np.r_[True, np.diff(t) > CLOSE * (edge.end - edge.start)]], edge.end]
        spline = make_interp_spline(t, edge.curve.evaluate(t), 1 if jagged else 5)
        between = (t[:-1, None] + np.diff(t)[:, None] * [0.3, 0.7]).ravel()
        off = float(np.linalg.norm(spline(between) - edge.curve.evaluate(between), axis=1).max())
        if off < FITTED or count >= MOST_POINTS:
            return _spline(Spline(spline.t, spline.c, spline.k)), off
        count = 2 * count - 1


def _knots(knots: Array) -> tuple[TColStd_Array1OfReal, TColStd_Array1OfInteger]:
    values, counts = np.unique(knots, return_counts=True)
    first, second = TColStd_Array1OfReal(1, len(values)), TColStd_Array1OfInteger(1, len(values))
    for i, (value, count) in enumerate(zip(values.tolist(), counts.tolist(), strict=True), 1):
        first.SetValue(i, value)
        second.SetValue(i, count)
    return first, second


def _reals(values: Array) -> TColStd_Array1OfReal:
    made = TColStd_Array1OfReal(1, len(values))
    for i, value in enumerate(values.tolist(), 1):
        made.SetValue(i, value)
    return made


def _spline(curve: Spline):
    from OCP.Geom import Geom_BSplineCurve

    poles = TColgp_Array1OfPnt(1, len(curve.control))
    for i, p in enumerate(curve.control.tolist(), 1):
        poles.SetValue(i, gp_Pnt(*p))
    if curve.weights is None:
        return Geom_BSplineCurve(poles, *_knots(curve.knots), curve.degree)
    return Geom_BSplineCurve(poles, _reals(curve.weights), *_knots(curve.knots), curve.degree)


def _in_parameters(curve: Curve) -> Geom2d_Curve:
    """The kernel's curve in the parameters of a surface."""
    if isinstance(curve, Line):
        size = float(np.linalg.norm(curve.direction))
        if abs(size - 1) < 1e-12:
            return Geom2d_Line(gp_Pnt2d(*curve.origin.tolist()), gp_Dir2d(*curve.direction.tolist()))
        return _as_spline_2d(curve)
    if isinstance(curve, Ellipse):
        made = _ellipse_2d(curve)
        return made if made is not None else _as_spline_2d(curve)
    return _spline_2d(curve)


def _ellipse_2d(curve: Ellipse) -> Geom2d_Ellipse | None:
    major, minor = float(np.linalg.norm(curve.x_axis)), float(np.linalg.norm(curve.y_axis))
    if abs(curve.x_axis @ curve.y_axis) > 1e-12 * major * minor or major < minor:
        return None
    axes = gp_Ax22d(
        gp_Pnt2d(*curve.centre.tolist()), gp_Dir2d(*curve.x_axis.tolist()), gp_Dir2d(*curve.y_axis.tolist())
    )
    return Geom2d_Ellipse(gp_Elips2d(axes, major, minor))


def _as_spline_2d(curve: Line | Ellipse) -> Geom2d_BSplineCurve:
    """The curve over its own parameter: a line exactly, a turned ellipse within rounding."""
    from scipy.interpolate import make_interp_spline

    low, high = (-1e4, 1e4) if isinstance(curve, Line) else (-2 * np.pi, 4 * np.pi)
    if isinstance(curve, Line):
        knots, control, degree = np.array([low, low, high, high]), curve.evaluate(np.array([low, high])), 1
    else:
        t = np.linspace(low, high, 385)
        fitted = make_interp_spline(t, curve.evaluate(t), 7)
        knots, control, degree = fitted.t, fitted.c, fitted.k
    return _spline_2d(Spline(knots, control, degree))


def _spline_2d(curve: Spline) -> Geom2d_BSplineCurve:
    poles = TColgp_Array1OfPnt2d(1, len(curve.control))
    for i, p in enumerate(curve.control.tolist(), 1):
        poles.SetValue(i, gp_Pnt2d(*p))
    if curve.weights is None:
        return Geom2d_BSplineCurve(poles, *_knots(curve.knots), curve.degree)
    return Geom2d_BSplineCurve(poles, _reals(curve.weights), *_knots(curve.knots), curve.degree)


# --- surfaces ---------------------------------------------------------------------------------


def _axes(frame: Frame) -> gp_Ax3:
    x, _, z = frame.axes.tolist()
    made = gp_Ax3(gp_Pnt(*frame.origin.tolist()), gp_Dir(*z), gp_Dir(*x))
    if np.linalg.det(frame.axes) < 0:  # left-handed, as the kernel itself makes some
        made.YReverse()
    return made


def surface_of(surface: Surface) -> Geom_Surface:
    """The kernel's surface with the same parameters. Raises CannotBeDone for that of a mesh."""
    if isinstance(surface, Plane):
        return Geom_Plane(_axes(surface.frame))
    if isinstance(surface, Cylinder):
        return Geom_CylindricalSurface(_axes(surface.frame), surface.radius)
    if isinstance(surface, Cone):
        return Geom_ConicalSurface(_axes(surface.frame), surface.half_angle, surface.radius)
    if isinstance(surface, Sphere):
        return Geom_SphericalSurface(_axes(surface.frame), surface.radius)
    if isinstance(surface, Torus):
        return Geom_ToroidalSurface(_axes(surface.frame), surface.ring, surface.radius)
    if isinstance(surface, Extrusion):
        return Geom_SurfaceOfLinearExtrusion(_profile(surface.profile, surface.bounds[:2]), gp_Dir(*surface.direction))
    if isinstance(surface, Revolution):
        axis = gp_Ax1(gp_Pnt(*surface.frame.origin.tolist()), gp_Dir(*surface.frame.axes[2].tolist()))
        return Geom_SurfaceOfRevolution(_profile(surface.profile, surface.bounds[2:]), axis)
    if isinstance(surface, SplineSurface):
        return spline_surface(surface)
    raise CannotBeDone(
        "The form is a mesh, and solids are modelled on true surfaces only: take the form as STEP. A mesh that was cut "
        "into keeps its triangles; write it with --mesh."
    )


def _profile(curve: Curve, bounds: tuple[float, float]) -> Geom_Curve:
    made, _ = _in_space(Edge(0, curve, *bounds, ()))
    return Geom_TrimmedCurve(made, *bounds) if isinstance(made, Geom_Line) else made


def spline_surface(surface: SplineSurface) -> Geom_BSplineSurface:
    """The kernel's B-spline surface."""
    rows, columns = surface.control.shape[:2]
    poles = TColgp_Array2OfPnt(1, rows, 1, columns)
    for i in range(rows):
        for j in range(columns):
            poles.SetValue(i + 1, j + 1, gp_Pnt(*surface.control[i, j].tolist()))
    knots = _knots(surface.knots_u), _knots(surface.knots_v)
    ordered = (knots[0][0], knots[1][0], knots[0][1], knots[1][1], surface.degree_u, surface.degree_v)
    if surface.weights is None:
        return Geom_BSplineSurface(poles, *ordered)
    weights = TColStd_Array2OfReal(1, rows, 1, columns)
    for i in range(rows):
        for j in range(columns):
            weights.SetValue(i + 1, j + 1, float(surface.weights[i, j]))
    return Geom_BSplineSurface(poles, weights, *ordered)
