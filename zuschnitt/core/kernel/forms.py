"""Shapes of the kernel as forms: faces on surfaces that are evaluated here, with the edges that they share."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Curve2d, BRepAdaptor_Surface
from OCP.BRepTools import BRepTools, BRepTools_WireExplorer
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_FORWARD, TopAbs_REVERSED, TopAbs_WIRE
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Shape
from OCP.TopTools import TopTools_IndexedMapOfShape

from ..developable.developable import with_flat
from ..errors import Refused
from ..form.area import face_area
from ..form.build import connected
from ..form.form import POLE, Coedge, Edge, Face, Form, OnSurface
from ..form.meshing import with_meshes
from ..form.poles import with_poles_along_u
from ..geometry.curves import Line
from ..geometry.surfaces import (
    Surface,
)
from ..progress import SILENT, Progress
from .translated import curve_of, surface_of, vector_of

POINT = 1e-7
"""An edge no larger than this is a point, in mm."""


def form_of_shape(
    shape: TopoDS_Shape, name: str, unit: str = "mm", progress: Progress = SILENT, look: bool = True
) -> Form:
    """A shape of the kernel as a form whose faces are evaluated here.

    Whether they are developable is looked at later where not ``look``. Raises Refused for faces without area.
    """
    faces, edges = indexed(shape, TopAbs_FACE), indexed(shape, TopAbs_EDGE)
    made = []
    for i in range(1, faces.Size() + 1):
        progress.step(0.75 * i / faces.Size(), "reading faces")
        face = _face(i, TopoDS.Face_s(faces.FindKey(i)), edges, name)
        made.append(with_flat(face) if look else replace(face, looked_at=face.developable))
    form = Form(
        name,
        tuple(made),
        tuple(edge_of(i, TopoDS.Edge_s(edges.FindKey(i))) for i in range(1, edges.Size() + 1)),
        unit=unit,
        source=name,
    )
    progress.step(0.75, "laying triangles")
    return with_meshes(connected(form))


def faces_of(shape: TopoDS_Shape) -> list[Face]:
    """The faces of a shape, each by itself: their areas are not worked out, and none is looked at."""
    edges = indexed(shape, TopAbs_EDGE)
    faces = indexed(shape, TopAbs_FACE)
    return [_bounded(i, TopoDS.Face_s(faces.FindKey(i)), edges, "the body") for i in range(1, faces.Size() + 1)]


def indexed(shape, kind) -> TopTools_IndexedMapOfShape:
    found = TopTools_IndexedMapOfShape()
    TopExp.MapShapes_s(shape, kind, found)
    return found


def _bounded(number: int, face, edges: TopTools_IndexedMapOfShape, name: str) -> Face:
    """A face without its area."""
    forward = TopoDS.Face_s(face.Oriented(TopAbs_FORWARD))
    bounds = BRepTools.UVBounds_s(forward)
    surface = surface_of(BRepAdaptor_Surface(forward), bounds)
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
    return with_poles_along_u(Face(number, surface, face.Orientation() == TopAbs_REVERSED, tuple(loops), 0.0))


def _face(number: int, face, edges: TopTools_IndexedMapOfShape, name: str) -> Face:
    made = _bounded(number, face, edges, name)
    surface = made.surface
    area = face_area(made)
    extent = max(c.evaluate(np.linspace(a, b, 9)).std(axis=0).max() for c, a, b in _space_curves(made, surface))
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
        coedges.append(Coedge(index, curve_of(adaptor, 2), first, last))
        walk.Next()
    return tuple(coedges)


def _is_point(edge) -> bool:
    """Whether an edge is a single point, though the file does not say so."""
    adaptor = BRepAdaptor_Curve(edge)
    t = np.linspace(adaptor.FirstParameter(), adaptor.LastParameter(), 5)
    at = np.array([vector_of(adaptor.Value(float(s))) for s in t])
    return bool(np.ptp(at, axis=0).max() < POINT)


def edge_of(number: int, edge) -> Edge:
    if BRep_Tool.Degenerated_s(edge):
        point = vector_of(BRep_Tool.Pnt_s(TopExp.FirstVertex_s(edge)))
        return Edge(number, Line(point, np.zeros(3)), 0.0, 1.0, ())
    adaptor = BRepAdaptor_Curve(edge)
    return Edge(number, curve_of(adaptor, 3), adaptor.FirstParameter(), adaptor.LastParameter(), ())
