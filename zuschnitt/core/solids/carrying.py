"""Flat bodies carried to the form: every face evaluated on a grid of its own parameters.

The trimming curves in parameters, and which faces share which edges, stay what they are. A body that lies over several
faces of the form is first split along their boundaries on the blank; what was split at a smooth join is one again on
the form.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepAlgoAPI import BRepAlgoAPI_Splitter
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepLib import BRepLib
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.BRepTools import BRepTools
from OCP.gp import gp_Pnt, gp_Vec
from OCP.ShapeFix import ShapeFix_Shape
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_FORWARD, TopAbs_REVERSED, TopAbs_SOLID, TopAbs_WIRE
from OCP.TopExp import TopExp
from OCP.TopoDS import (
    TopoDS,
    TopoDS_Compound,
    TopoDS_Edge,
    TopoDS_Face,
    TopoDS_Iterator,
    TopoDS_Shape,
    TopoDS_Shell,
    TopoDS_Solid,
    TopoDS_Vertex,
    TopoDS_Wire,
)
from OCP.TopTools import TopTools_IndexedMapOfShape, TopTools_ListOfShape

from ..carry.lifted import Lifting, room
from ..correspondence import RigidLeaf
from ..errors import CannotBeDone
from ..form.curves import Array, Spline
from ..form.kernel import curve_edge
from ..form.surfaces import SplineSurface
from ..progress import SILENT, Progress
from ..wording import coordinates
from .explore import box_of, centre, each, volume
from .shape import spline_surface

EXACT, RELAXED = 1e-6, 0.01
"""How near in mm the images of faces lie to what they stand for, on exact and on relaxed blanks."""
NEAR = 1e-7
"""The least tolerance of the kernel, in mm."""
FIRST, MOST = 8, 128
"""Spans of the grid of a face, at first and at the most."""
MARGIN = 0.999
"""What part of the room to where normals cross may be used."""
SAMPLES = 24


@dataclass(frozen=True)
class Carried:
    """``shape`` of the kernel in space, and how far in mm its faces may be off what they stand for."""

    shape: TopoDS_Shape
    deviation: float


def carry_body(lifting: Lifting, body: TopoDS_Shape, name: str = "The body", progress: Progress = SILENT) -> Carried:
    """A solid that stands on the blank, carried to the form: one solid, or a compound where creases part it.

    Raises CannotBeDone where it would turn over itself, or does not become a valid solid.
    """
    require_room(lifting, body, name)
    parts = _split(lifting, body)
    faces_of = [_face_below(lifting, part) for part in parts]
    exact = all(isinstance(lifting.leaves[face], RigidLeaf) for face in set(faces_of))
    groups = _smooth_groups(lifting, faces_of)
    made, worst = [], 0.0
    for k, group in enumerate(groups):
        progress.step(k / len(groups), "carrying a body")
        copy = _Copy(lifting, EXACT if exact else RELAXED)
        inner = _shared([parts[i] for i in group])
        for i in group:
            for face in each(parts[i], TopAbs_FACE):
                if not inner.Contains(face):
                    copy.add(TopoDS.Face_s(face), faces_of[i])
        made.append(copy.solid(name))
        worst = max(worst, copy.deviation)
    return Carried(made[0] if len(made) == 1 else compound(made), worst)


def compound(shapes: Sequence[TopoDS_Shape]) -> TopoDS_Shape:
    """Several shapes as one."""
    builder, whole = BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(whole)
    for shape in shapes:
        builder.Add(whole, shape)
    return whole


def require_room(lifting: Lifting, body: TopoDS_Shape, name: str) -> None:
    """Raises CannotBeDone where a body is higher or deeper than the form's curvature allows."""
    low, high = box_of(body)
    grid = np.stack(np.meshgrid(*(np.linspace(a, b, SAMPLES) for a, b in zip(low[:2], high[:2], strict=True))), -1)
    points = grid.reshape(-1, 2)
    at = lifting.correspondence.to_form(points)
    points, faces = points[at.inside], at.face[at.inside]
    if not len(points):
        raise CannotBeDone(f"{name} does not stand on the blank; move it.")
    deepest, highest = room(lifting, points, faces)
    for limits, reached, what in ((highest, high[2], "high"), (-deepest, -low[2], "deep")):
        k = int(limits.argmin())
        if reached > MARGIN * limits[k]:
            there = lifting.on(int(faces[k]), np.array([[*points[k], 0.0]]))[0]
            raise CannotBeDone(
                f"{name} would turn over itself at {coordinates(there)}, where the form allows no more than "
                f"{MARGIN * limits[k]:.4g} mm; it is {reached:.4g} mm {what}."
            )


def _split(lifting: Lifting, body: TopoDS_Shape) -> list[TopoDS_Shape]:
    """The body's solids, parted where one face of the form ends on the blank and another begins."""
    solids = list(each(body, TopAbs_SOLID)) or [body]
    if len(lifting.leaves) < 2:
        return solids
    low, high = box_of(body)
    box = shapely.box(*(low[:2] - 1), *(high[:2] + 1))
    walls = TopTools_ListOfShape()
    for line in _boundaries(lifting, box):
        edge = curve_edge(line) if isinstance(line, Spline) else _straight(line)
        walls.Append(BRepPrimAPI_MakePrism(_at_height(edge, low[2] - 1), gp_Vec(0, 0, high[2] - low[2] + 2)).Shape())
    if walls.Size() == 0:
        return solids
    bodies = TopTools_ListOfShape()
    for solid in solids:
        bodies.Append(solid)
    splitter = BRepAlgoAPI_Splitter()
    splitter.SetArguments(bodies)
    splitter.SetTools(walls)
    splitter.Build()
    return list(each(splitter.Shape(), TopAbs_SOLID))


def _straight(line: Array) -> TopoDS_Edge:
    return BRepBuilderAPI_MakeEdge(gp_Pnt(*line[0].tolist(), 0.0), gp_Pnt(*line[1].tolist(), 0.0)).Edge()


def _at_height(edge: TopoDS_Shape, height: float) -> TopoDS_Shape:
    from .placing import moved

    return moved(edge, (0.0, 0.0, height))


def _boundaries(lifting: Lifting, box: shapely.Geometry) -> list[Array | Spline]:
    """Where neighbouring faces meet on the blank, as far as the box round a body reaches: lines and splines."""
    found: list[Array | Spline] = []
    leaves = list(lifting.leaves.values())
    near = [k for k, leaf in enumerate(leaves) if shapely.MultiPoint(leaf.rings_blank).envelope.intersects(box)]
    if len(near) < 2:
        return []
    for edge in lifting.form.edges:
        mine = [leaves[k] for k in near if leaves[k].face in edge.faces]
        if len(mine) < 2:
            continue
        points = edge.curve.evaluate(np.linspace(edge.start, edge.end, 257))
        at = lifting.correspondence.to_blank(points, faces=[mine[0].face]).points
        if not shapely.LineString(at).intersects(box):
            continue
        chord = at[-1] - at[0]
        off = np.abs((at - at[0]) @ np.array([-chord[1], chord[0]])) / max(float(np.linalg.norm(chord)), 1e-12)
        if off.max() < 1e-7:
            longer = 1e-3 * chord
            found.append(np.stack([at[0] - longer, at[-1] + longer]))
        else:
            from ..carry.carried import smooth_through

            curve = smooth_through(np.column_stack([at, np.zeros(len(at))]))
            if isinstance(curve, Spline):
                found.append(curve)
    return found


def _face_below(lifting: Lifting, part: TopoDS_Shape) -> int:
    """The face of the form over which the most of a part lies."""
    points = []
    for face in each(part, TopAbs_FACE):
        low, high = box_of(face)
        points.append((low + high)[:2] / 2)
    points.append(centre(part)[:2])
    faces = lifting.face_at(np.array(points))
    inside = lifting.correspondence.to_form(np.array(points)).inside
    counted = np.bincount(faces[inside] if inside.any() else faces)
    return int(counted.argmax())


def _smooth_groups(lifting: Lifting, faces: Sequence[int]) -> list[list[int]]:
    """Parts (their indices) over faces that run on smoothly from each other belong together."""
    left = set(range(len(faces)))
    groups = []
    while left:
        waiting, group = [min(left)], []
        while waiting:
            k = waiting.pop()
            if k in left:
                left.remove(k)
                group.append(k)
                face = lifting.form.face(faces[k])
                waiting.extend(m for m in left if faces[m] == faces[k] or faces[m] in face.smooth)
        groups.append(sorted(group))
    return groups


def _shared(parts: Sequence[TopoDS_Shape]) -> TopTools_IndexedMapOfShape:
    """Faces that two parts have in common: where they were split."""
    seen, shared = TopTools_IndexedMapOfShape(), TopTools_IndexedMapOfShape()
    for part in parts:
        for face in each(part, TopAbs_FACE):
            (shared if seen.Contains(face) else seen).Add(face)
    return shared


class _Copy:
    """A body with the same faces, edges and vertices, each where the map carries it."""

    def __init__(self, lifting: Lifting, tolerance: float) -> None:
        self.lifting, self.tolerance, self.deviation = lifting, tolerance, 0.0
        self.builder, self.shell = BRep_Builder(), TopoDS_Shell()
        self.builder.MakeShell(self.shell)
        self.known = (
            TopTools_IndexedMapOfShape()
        )  # edges and vertices of the flat body, by whose numbers the new ones go
        self.edges: dict[int, TopoDS_Edge] = {}
        self.vertices: dict[int, TopoDS_Vertex] = {}
        self.uses: Counter[int] = Counter()

    def add(self, face: TopoDS_Face, number: int) -> None:
        """The image of a face of the flat body over face ``number`` of the form."""
        forward = TopoDS.Face_s(face.Oriented(TopAbs_FORWARD))
        low_u, high_u, low_v, high_v = BRepTools.UVBounds_s(forward)
        adaptor = BRepAdaptor_Surface(forward)

        def image(u: Array, v: Array) -> Array:
            points = np.array([_at(adaptor.Value(a, b)) for a in u.tolist() for b in v.tolist()])
            return self.lifting.on(number, points).reshape(len(u), len(v), 3)

        surface, off = _fitted(image, (low_u, high_u), (low_v, high_v), self.tolerance)
        self.deviation = max(self.deviation, off)
        made = TopoDS_Face()
        self.builder.MakeFace(made, spline_surface(surface), NEAR)
        for edge in each(forward, TopAbs_EDGE):
            self._on_face(TopoDS.Edge_s(edge), forward, made, number)
        for wire in each(forward, TopAbs_WIRE):
            ring = TopoDS_Wire()
            self.builder.MakeWire(ring)
            walk = TopoDS_Iterator(wire.Oriented(TopAbs_FORWARD))
            while walk.More():
                edge = walk.Value()
                walk.Next()
                key = self.known.Add(edge)
                self.builder.Add(ring, self.edges[key].Oriented(edge.Orientation()))
                if not BRep_Tool.Degenerated_s(TopoDS.Edge_s(edge)):
                    self.uses[key] += 1
            ring.Closed(True)
            self.builder.Add(made, ring.Oriented(wire.Orientation()))
        turned = made.Oriented(TopAbs_REVERSED) if face.Orientation() == TopAbs_REVERSED else made
        self.builder.Add(self.shell, turned)

    def _on_face(self, edge: TopoDS_Edge, face: TopoDS_Face, made: TopoDS_Face, number: int) -> None:
        """Lays the new edge on the new face, along the same curve in parameters."""
        key = self.known.Add(edge)
        forward = TopoDS.Edge_s(edge.Oriented(TopAbs_FORWARD))
        first, last = BRep_Tool.Range_s(forward)
        new = self.edges.get(key)
        fresh = new is None
        if new is None:
            new = self.edges[key] = TopoDS_Edge()
            self.builder.MakeEdge(new)
        curve = BRep_Tool.CurveOnSurface_s(forward, face, 0.0, 0.0)
        if BRep_Tool.IsClosed_s(forward, face):
            back = BRep_Tool.CurveOnSurface_s(TopoDS.Edge_s(edge.Oriented(TopAbs_REVERSED)), face, 0.0, 0.0)
            self.builder.UpdateEdge(new, curve, back, made, NEAR)
        else:
            self.builder.UpdateEdge(new, curve, made, NEAR)
        self.builder.Range(new, made, first, last)
        if fresh:
            self.builder.Range(new, first, last)
            for vertex, turned in ((TopExp.FirstVertex_s(forward), False), (TopExp.LastVertex_s(forward), True)):
                there = self._vertex(vertex, number)
                self.builder.Add(new, there.Oriented(TopAbs_REVERSED) if turned else there)
            if BRep_Tool.Degenerated_s(edge):
                self.builder.Degenerated(new, True)

    def _vertex(self, vertex: TopoDS_Vertex, number: int) -> TopoDS_Vertex:
        key = self.known.Add(vertex)
        if key not in self.vertices:
            at = np.array([_at(BRep_Tool.Pnt_s(vertex))])
            self.vertices[key] = TopoDS_Vertex()
            point = gp_Pnt(*self.lifting.on(number, at)[0].tolist())
            self.builder.MakeVertex(self.vertices[key], point, max(NEAR, self.tolerance))
        return self.vertices[key]

    def solid(self, name: str) -> TopoDS_Shape:
        """The body, right side out. Raises CannotBeDone where it does not close, or is not valid."""
        open_edges = sum(count != 2 for count in self.uses.values())
        if open_edges:
            raise CannotBeDone(f"{name} does not close on the form: {open_edges} edges are open; move it off seams.")
        BRepLib.BuildCurves3d_s(self.shell)
        BRepLib.SameParameter_s(self.shell, NEAR, True)
        BRepLib.UpdateTolerances_s(self.shell)
        self.shell.Closed(True)
        solid = TopoDS_Solid()
        self.builder.MakeSolid(solid)
        self.builder.Add(solid, self.shell)
        if volume(solid) < 0:
            solid = TopoDS.Solid_s(solid.Reversed())
        return _valid(solid, name)


def _at(point) -> tuple[float, float, float]:
    return point.X(), point.Y(), point.Z()


def _fitted(image, span_u: tuple[float, float], span_v: tuple[float, float], tolerance: float):
    """A spline surface near ``image(u, v) -> (nu, nv, 3)``, and how far it is off between the points it goes through.

    Each direction gets only as many spans as it needs.
    """
    from scipy.interpolate import make_interp_spline

    counts = [FIRST, FIRST]
    while True:
        u, v = (np.linspace(*span, count + 1) for span, count in zip((span_u, span_v), counts, strict=True))
        points = image(u, v)
        degrees = [min(5, count) for count in counts]
        along_u = make_interp_spline(u, points, degrees[0])
        along_v = make_interp_spline(v, along_u.c.transpose(1, 0, 2), degrees[1])
        surface = SplineSurface(along_u.t, along_v.t, along_v.c.transpose(1, 0, 2), degrees[0], degrees[1])
        off = []
        for axis, (at, other) in enumerate(((u, v), (v, u))):
            between = at[:-1] + 0.43 * np.diff(at)
            pair = (between, other) if axis == 0 else (other, between)
            grid = np.stack(np.meshgrid(*pair, indexing="ij"), -1).reshape(-1, 2)
            off.append(float(np.linalg.norm(surface.evaluate(grid) - image(*pair).reshape(-1, 3), axis=1).max()))
        worst = max(off)
        if worst <= tolerance or all(count >= MOST for count in counts):
            return surface, worst
        counts = [
            min(2 * count, MOST) if each > tolerance / 2 else count for count, each in zip(counts, off, strict=True)
        ]


def _valid(solid: TopoDS_Shape, name: str) -> TopoDS_Shape:
    if BRepCheck_Analyzer(solid).IsValid():
        return solid
    fix = ShapeFix_Shape(solid)
    fix.Perform()
    if not BRepCheck_Analyzer(fix.Shape()).IsValid():
        raise CannotBeDone(f"{name} does not become a valid body on the form; make it simpler, or move it.")
    return fix.Shape()
