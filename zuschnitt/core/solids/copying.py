"""A body copied through a map: every face evaluated on a grid of its own parameters.

The trimming curves in parameters, and which faces share which edges, stay what they are.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping, Sequence

import numpy as np
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepLib import BRepLib
from OCP.BRepTools import BRepTools
from OCP.BRepTopAdaptor import BRepTopAdaptor_FClass2d
from OCP.Geom import Geom_Surface
from OCP.gp import gp_Pnt, gp_Pnt2d, gp_Trsf
from OCP.ShapeFix import ShapeFix_Shape
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FORWARD, TopAbs_IN, TopAbs_REVERSED, TopAbs_WIRE
from OCP.TopExp import TopExp, TopExp_Explorer
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
from OCP.TopTools import TopTools_IndexedMapOfShape

from ..errors import CannotBeDone
from ..geometry.curves import Array
from ..geometry.surfaces import SplineSurface
from ..wording import counted
from .explore import each, rough_volume
from .shape import spline_surface

NEAR = 1e-7
"""The least tolerance of the kernel, in mm."""
FIRST, MOST = 5, 320
"""Spans of the grid of a face that is not straight in a direction, at first and at the most."""
ON_EDGES = 6
"""At so many places along each edge of a face it is looked how far that is off."""
MANY = 0.25
"""Where so many of the spans are too long, all are halved."""
ASIDE = (0.43, 0.21, 0.77)
"""Where between the points of a grid it is looked how far a face is off; in all of these where they are but two."""


def compound(shapes: Sequence[TopoDS_Shape]) -> TopoDS_Shape:
    """Several shapes as one."""
    builder, whole = BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(whole)
    for shape in shapes:
        builder.Add(whole, shape)
    return whole


class Copy:
    """A body with the same faces, edges and vertices, each where ``image(key, points)`` carries it.

    Points are (n, 3); a key says which of several maps that agree where they meet. ``motions`` has those of them that
    only move and turn: faces keep their kind there. ``tolerance`` is in mm.
    """

    def __init__(
        self, image: Callable[[int, Array], Array], tolerance: float, motions: Mapping[int, gp_Trsf] | None = None
    ) -> None:
        self.image, self.tolerance, self.motions = image, tolerance, motions or {}
        self.deviation = self.beside = 0.0
        self.builder, self.shell = BRep_Builder(), TopoDS_Shell()
        self.builder.MakeShell(self.shell)
        self.known = TopTools_IndexedMapOfShape()  # edges and vertices of the body, by whose numbers the new ones go
        self.same: dict[int, int] = {}
        self.edges: dict[int, TopoDS_Edge] = {}
        self.vertices: dict[int, TopoDS_Vertex] = {}
        self.uses: Counter[int] = Counter()

    def _index(self, part: TopoDS_Shape) -> int:
        index = self.known.Add(part)
        return self.same.get(index, index)

    def take_as_one(self, one: TopoDS_Shape, other: TopoDS_Shape) -> None:
        """An edge or a vertex that the map carries to the same place as another one."""
        self.same[self.known.Add(other)] = self.known.Add(one)

    def add(self, face: TopoDS_Face, key: int) -> None:
        """Adds the image of a face of the body by the map ``key``."""
        forward = TopoDS.Face_s(face.Oriented(TopAbs_FORWARD))
        made = TopoDS_Face()
        self.builder.MakeFace(made, self._surface(forward, key), NEAR)
        self._bound(face, forward, made, key)

    def _surface(self, forward: TopoDS_Face, key: int) -> Geom_Surface:
        """What the map ``key`` makes of the surface of a face."""
        if key in self.motions:
            return BRep_Tool.Surface_s(forward).Transformed(self.motions[key])
        low_u, high_u, low_v, high_v = BRepTools.UVBounds_s(forward)
        adaptor = BRepAdaptor_Surface(forward)

        def image(uv: Array) -> Array:
            points = np.array([_at(adaptor.Value(a, b)) for a, b in uv.reshape(-1, 2).tolist()])
            return self.image(key, points).reshape(*uv.shape[:-1], 3)

        place = BRepTopAdaptor_FClass2d(forward, NEAR)

        def inside(grid: Array) -> np.ndarray:
            return np.array([place.Perform(gp_Pnt2d(a, b)) == TopAbs_IN for a, b in grid.tolist()], bool)

        spans = (low_u, high_u), (low_v, high_v)
        surface, off, beside = _fitted(image, inside, _along_edges(forward), *spans, self.tolerance)
        self.deviation, self.beside = max(self.deviation, off), max(self.beside, beside)
        return spline_surface(surface)

    def _bound(self, face: TopoDS_Face, forward: TopoDS_Face, made: TopoDS_Face, key: int) -> None:
        """Bounds the new face as the old one is."""
        uses: dict[int, list[TopoDS_Edge]] = {}
        walk = TopExp_Explorer(forward, TopAbs_EDGE)
        while walk.More():
            edge = TopoDS.Edge_s(walk.Current())
            uses.setdefault(self.known.Add(edge), []).append(edge)
            walk.Next()
        for edges in uses.values():
            self._on_face(edges, forward, made, key)
        for wire in each(forward, TopAbs_WIRE):
            ring = TopoDS_Wire()
            self.builder.MakeWire(ring)
            walk = TopoDS_Iterator(wire.Oriented(TopAbs_FORWARD))
            while walk.More():
                edge = walk.Value()
                walk.Next()
                index = self._index(edge)
                self.builder.Add(ring, self.edges[index].Oriented(edge.Orientation()))
                if not BRep_Tool.Degenerated_s(TopoDS.Edge_s(edge)):
                    self.uses[index] += 1
            ring.Closed(True)
            self.builder.Add(made, ring.Oriented(wire.Orientation()))
        turned = made.Oriented(TopAbs_REVERSED) if face.Orientation() == TopAbs_REVERSED else made
        self.builder.Add(self.shell, turned)

    def _on_face(self, uses: Sequence[TopoDS_Edge], face: TopoDS_Face, made: TopoDS_Face, key: int) -> None:
        """Lays the new edge on the new face, along the same curve in parameters.

        A seam has two ``uses`` there. Where its face was divided there is but one, whose own curve counts.
        """
        edge = uses[0]
        index = self._index(edge)
        forward = TopoDS.Edge_s(edge.Oriented(TopAbs_FORWARD))
        first, last = BRep_Tool.Range_s(forward)
        new = self.edges.get(index)
        fresh = new is None
        if new is None:
            new = self.edges[index] = TopoDS_Edge()
            self.builder.MakeEdge(new)
        seam = len(uses) > 1 and BRep_Tool.IsClosed_s(forward, face)
        curve = BRep_Tool.CurveOnSurface_s(forward if seam else edge, face, 0.0, 0.0)
        if seam:
            back = BRep_Tool.CurveOnSurface_s(TopoDS.Edge_s(edge.Oriented(TopAbs_REVERSED)), face, 0.0, 0.0)
            self.builder.UpdateEdge(new, curve, back, made, NEAR)
        else:
            self.builder.UpdateEdge(new, curve, made, NEAR)
        self.builder.Range(new, made, first, last)
        if fresh:
            self.builder.Range(new, first, last)
            for vertex, turned in ((TopExp.FirstVertex_s(forward), False), (TopExp.LastVertex_s(forward), True)):
                there = self._vertex(vertex, key)
                self.builder.Add(new, there.Oriented(TopAbs_REVERSED) if turned else there)
            if BRep_Tool.Degenerated_s(edge):
                self.builder.Degenerated(new, True)

    def _vertex(self, vertex: TopoDS_Vertex, key: int) -> TopoDS_Vertex:
        index = self._index(vertex)
        if index not in self.vertices:
            at = np.array([_at(BRep_Tool.Pnt_s(vertex))])
            self.vertices[index] = TopoDS_Vertex()
            point = gp_Pnt(*self.image(key, at)[0].tolist())
            self.builder.MakeVertex(self.vertices[index], point, max(NEAR, self.tolerance))
        return self.vertices[index]

    def solid(self, name: str) -> TopoDS_Shape | None:
        """The body, right side out; None where it is not valid. Raises CannotBeDone where it does not close."""
        open_edges = sum(count != 2 for count in self.uses.values())
        if open_edges:
            raise CannotBeDone(
                f"{name} does not close on the form ({counted(open_edges, 'open edge')}); move it off seams."
            )
        BRepLib.BuildCurves3d_s(self.shell)
        BRepLib.SameParameter_s(self.shell, NEAR, True)
        BRepLib.UpdateTolerances_s(self.shell)
        self.shell.Closed(True)
        solid = TopoDS_Solid()
        self.builder.MakeSolid(solid)
        self.builder.Add(solid, self.shell)
        if rough_volume(solid) < 0:
            solid = TopoDS.Solid_s(solid.Reversed())
        return _valid(solid)


def _at(point) -> tuple[float, float, float]:
    return point.X(), point.Y(), point.Z()


def _along_edges(face: TopoDS_Face) -> Array:
    """Parameters (n, 2) of a face along its edges: of a narrow one, a grid may meet nothing."""
    found: list[gp_Pnt2d] = []
    for shape in each(face, TopAbs_EDGE):
        edge = TopoDS.Edge_s(shape)
        curve, (first, last) = BRep_Tool.CurveOnSurface_s(edge, face, 0.0, 0.0), BRep_Tool.Range_s(edge, face)
        places = first + np.linspace(0.0, 1.0, ON_EDGES)[:-1] * (last - first)
        found.extend(curve.Value(t) for t in places.tolist())
    return np.array([[p.X(), p.Y()] for p in found]).reshape(-1, 2)


def _fitted(
    image: Callable[[Array], Array], inside: Callable[[Array], np.ndarray], edges: Array,
    span_u: tuple[float, float], span_v: tuple[float, float], tolerance: float,
) -> tuple[SplineSurface, float, float]:  # fmt: skip
    """A spline surface near ``image`` of (..., 2), and how far it is off between the points it goes through.

    That counts where (u, v) (n, 2) is ``inside`` (n,) the face, and along its ``edges`` (n, 2); beside it, what is
    carried need not be smooth, and how far it is off at the most is given too. Each direction gets only as many spans
    as it needs, where it needs them, and one where it is straight.
    """
    from scipy.interpolate import BSpline, make_interp_spline

    u, v = np.array(span_u), np.array(span_v)
    outline = image(edges)
    while True:
        points = image(_grid(u, v))
        degrees = [min(5, len(at) - 1) for at in (u, v)]
        along_u = make_interp_spline(u, points, degrees[0])
        along_v = make_interp_spline(v, along_u.c.transpose(1, 0, 2), degrees[1])
        control = along_v.c.transpose(1, 0, 2)
        on_edges = np.linalg.norm(_at_places(along_u.t, along_v.t, control, degrees, edges) - outline, axis=1)
        finer, worst, beside = [], float(on_edges.max(initial=0.0)), 0.0
        for axis, (at, other) in enumerate(((u, v), (v, u))):
            between, across = _looked_at(at)[0], _looked_at(other)[1]
            pair = (between, across) if axis == 0 else (across, between)
            rows = BSpline.construct_fast(along_u.t, np.ascontiguousarray(control), degrees[0])(pair[0]).transpose(
                1, 0, 2
            )
            found = BSpline.construct_fast(along_v.t, np.ascontiguousarray(rows), degrees[1])(pair[1])
            grid = _grid(*pair)
            apart = np.linalg.norm(found.transpose(1, 0, 2) - image(grid), axis=2)
            beside = max(beside, float(apart.max()))
            astray = apart > tolerance / 2
            if astray.any() and len(at) > 2:
                apart[astray] = np.where(inside(grid[astray]), apart[astray], 0.0)
            off = apart.max(axis=1 - axis)
            worst = max(worst, float(off.max()))
            finer.append(_finer(at, off, tolerance / 2))
        if len(finer[0]) == len(u) and len(finer[1]) == len(v):  # what the grids miss, the edges show
            finer = [_finer(at, _in_spans(at, places, on_edges), tolerance / 2)
                     for at, places in zip((u, v), edges.T, strict=True)]  # fmt: skip
        if worst <= tolerance or (len(finer[0]) == len(u) and len(finer[1]) == len(v)):
            return SplineSurface(along_u.t, along_v.t, control, degrees[0], degrees[1]), worst, beside
        u, v = finer


def _grid(u: Array, v: Array) -> Array:
    return np.stack(np.meshgrid(u, v, indexing="ij"), axis=-1)


def _in_spans(at: Array, places: Array, off: Array) -> Array:
    """The largest of what is ``off`` at ``places`` (n,) between each two of ``at``."""
    found = np.zeros(len(at) - 1)
    np.maximum.at(found, np.clip(np.searchsorted(at, places, "right") - 1, 0, len(found) - 1), off)
    return found


def _at_places(knots_u: Array, knots_v: Array, control: Array, degrees: Sequence[int], uv: Array) -> Array:
    """Points (n, 3) of a spline surface at parameters (n, 2)."""
    from scipy.interpolate import BSpline

    weights = [
        BSpline(knots, np.eye(count), degree)(at)
        for knots, count, degree, at in zip((knots_u, knots_v), control.shape[:2], degrees, uv.T, strict=True)
    ]
    rows = (weights[0] @ control.reshape(len(control), -1)).reshape(len(uv), -1, 3)
    return np.einsum("nj,njd->nd", weights[1], rows)


def _looked_at(at: Array) -> tuple[Array, Array]:
    """Places between those of a grid, and what is looked at along it: its own, and these too where it has but two."""
    if len(at) > 2:
        return at[:-1] + ASIDE[0] * np.diff(at), at
    between = at[0] + np.array(ASIDE) * (at[1] - at[0])
    return between, np.concatenate([at, between])


def _finer(at: Array, off: Array, least: float) -> Array:
    """Places with more of them where what lies between is ``off`` by more than the ``least``, as long as they are few.

    Spans beside each other differ in length by no more than a factor of two.
    """
    if off.max() <= least:
        return at
    if len(at) == 2:
        return np.linspace(at[0], at[1], FIRST + 1)
    size, split = np.diff(at), off > least
    if split.mean() > MANY:
        split[:] = True
    while True:
        longer = np.r_[split[1:] & (size[:-1] > 1.01 * size[1:]), False]
        longer |= np.r_[False, split[:-1] & (size[1:] > 1.01 * size[:-1])]
        if not (longer & ~split).any():
            break
        split |= longer
    if len(size) + split.sum() > MOST:
        return at
    return np.sort(np.concatenate([at, (at[:-1] + size / 2)[split]]))


def _valid(solid: TopoDS_Shape) -> TopoDS_Shape | None:
    """A solid, healed where it must be; None where it cannot."""
    if BRepCheck_Analyzer(solid).IsValid():
        return solid
    fix = ShapeFix_Shape(solid)
    fix.Perform()
    return fix.Shape() if BRepCheck_Analyzer(fix.Shape()).IsValid() else None
