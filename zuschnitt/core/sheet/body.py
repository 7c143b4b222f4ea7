"""The body of a sheet part, flat, folded, or at any stage between: true surfaces that share their edges."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..errors import CannotBeDone
from ..form.area import face_area
from ..form.build import connected
from ..form.form import Coedge, Edge, Face, Form, OnSurface
from ..form.meshing import with_meshes
from ..geometry.curves import Array, Curve, Ellipse, Line, Spline
from ..geometry.surfaces import TURN, Cone, Cylinder, Extrusion, Frame, Plane, SplineSurface, Surface
from ..record import record
from .cone_roll import ConeRoll
from .flat import outline
from .part import Key, Roll, SheetPart, Zone
from .resizing import width_of
from .zones import Loop, Step, area, region

LEAST_RADIUS = 1e-3
"""What a bend without an inside radius gets, in mm, where it is cut across; in others the walls meet in an edge."""
FITTED = 1e-7
"""A cut across a bend is a ruled surface within this, in mm."""
HAIR = 1e-6
"""A part of a whole turn."""
STRAIGHT = 1e-9

TOP, BOTTOM = 0, 1


def flat_body(part: SheetPart, name: str = "flat") -> Form:
    """The flat pattern as a body, from z = -thickness to 0."""
    zone = Zone(outline(part), wall=1)
    return folded_body(SheetPart((zone,), {}, part.thickness), name=name)


def folded_body(part: SheetPart, stage: float = 1.0, name: str = "sheet part") -> Form:
    """The body at a stage from 0, flat, to 1, folded. The followed skin of each zone comes first, in their order.

    Raises CannotBeDone.
    """
    return _Body(part, stage, name).form()


@record
class _Skin:
    """The surface of one side of a zone; ``scale`` (2,) turns its x and y into the parameters, or a ``cone`` does."""

    surface: Plane | Cylinder | Cone
    scale: Array
    cone: ConeRoll | None = None


class _Body:
    def __init__(self, part: SheetPart, stage: float, name: str) -> None:
        part = as_it_stands(part)
        self.part, self.name, self.stage = part, name, stage
        self.frames = part.frames(stage)
        self.skins = [(self._skin(k, 0.0), self._skin(k, -part.thickness)) for k in range(len(part.zones))]
        self.steps = {key: self._on_skin(key[0], step) for key, step in part.steps.items()}
        self.after, self.twin = part.after, part.twins
        self.sharp = {k: level for k in range(len(part.zones)) for level in (TOP, BOTTOM) if self._is_sharp(k, level)}
        """The bends without an inside radius, and on which side that would be."""
        self.vertex = self._vertices()
        self.edges: list[Edge] = []
        self.of_step: dict[tuple[Key, int], int] = {}
        self.uprights: dict[Key, int] = {}

    # --- surfaces ---------------------------------------------------------------------------------

    def _skin(self, zone: int, height: float) -> _Skin:
        """In the zone's parameters: those of a rolled one are the angle and the place along its axis."""
        frame, roll = self.frames[zone], self.part.rolled(zone, self.stage)
        if roll is None:
            return _Skin(Plane(Frame(frame.origin + height * frame.axes[2], frame.axes)), np.ones(2))
        if isinstance(roll, ConeRoll):
            return _Skin(roll.skin(frame, height), np.ones(2), roll)
        x, y, z = frame.axes
        first, radius = (roll.skin(h, self.part.thickness) for h in (0.0, height))
        way = 1.0 if roll.up else -1.0
        axes = np.array([-way * z, x, -way * y])
        return _Skin(Cylinder(Frame(frame.origin + way * first * z, axes), radius),
                     np.array([1 / roll.neutral, -way]))  # fmt: skip

    def _on_skin(self, zone: int, step: Step) -> Step:
        """A step in the parameters of its zone's skins; one round the axis over the angle itself."""
        skin = self.skins[zone][TOP]
        if skin.cone is not None:
            return skin.cone.rolled_up(step)
        made = step.mapped(np.diag(skin.scale), np.zeros(2))
        if isinstance(skin.surface, Cylinder) and _along(made, 1):
            return replace(made, curve=Line(np.array([0.0, made.first[1]]), np.array([1.0, 0.0])),
                           start=float(made.first[0]), end=float(made.last[0]))  # fmt: skip
        if made.straight:  # the kernel knows lines over their length only
            return replace(Step.between(made.first, made.last, step.joint), edge=step.edge)
        return made

    def _is_sharp(self, zone: int, level: int) -> bool:
        """Whether a bend has no inside radius on that side: its skin there is the edge of the walls at both sides."""
        surface = self.skins[zone][level].surface
        return isinstance(surface, Cylinder) and surface.radius < LEAST_RADIUS / 2

    def _owner(self, key: Key, level: int) -> Key:
        """The step whose edge is that of a step on one side of the sheet."""
        other = self.twin.get(key)
        if other is None:
            return key
        for here, there in ((key, other), (other, key)):
            if self.sharp.get(here[0]) == level:  # across the bend, the other wall has the same edge
                across = self.after[self.after[here]]
                return min(there, self.twin.get(across, there))
        return min(key, other)

    # --- what is shared ------------------------------------------------------------------------

    def _vertices(self) -> dict[Key, Key]:
        """For each step the one that stands for all that begin where it does."""
        root = {key: key for key in self.steps}

        def find(key: Key) -> Key:
            while root[key] != key:
                key = root[key]
            return key

        for one, other in self.twin.items():
            root[find(one)] = find(self.after[other])
        return {key: find(key) for key in self.steps}

    def _edge_of(self, key: Key, level: int) -> tuple[int, Step]:
        """The edge of a step on one side of the sheet, and the step over the parameter of that edge."""
        step = self.steps[key]
        owner = self._owner(key, level)
        if (owner, level) not in self.of_step:
            first = self.steps[owner]
            low, high = sorted((first.start, first.end))
            curve = _in_space(self.skins[owner[0]][level].surface, first.curve)
            self.of_step[owner, level] = self._add(curve, low, high)
        if owner != key:
            first = self.steps[owner]
            slope = (step.first - step.last) / (first.end - first.start)
            step = replace(step, curve=Line(step.last - first.start * slope, slope), start=first.end, end=first.start)
        return self.of_step[owner, level], step

    def _upright(self, key: Key) -> tuple[int, Array, Array]:
        """The edge through the sheet at the start of a step, and its two ends."""
        vertex = self.vertex[key]
        at = self.steps[vertex].first[None]
        ends = [skin.surface.evaluate(at)[0] for skin in self.skins[vertex[0]]]
        if vertex not in self.uprights:
            self.uprights[vertex] = self._add(*_through(ends[0], ends[1]))
        return self.uprights[vertex], ends[0], ends[1]

    def _add(self, curve: Curve | OnSurface, low: float, high: float) -> int:
        self.edges.append(Edge(len(self.edges) + 1, curve, float(low), float(high), ()))
        return len(self.edges) - 1

    # --- faces ------------------------------------------------------------------------------------

    def form(self) -> Form:
        faces: list[Face] = []
        for level in (TOP, BOTTOM):
            for k, zone in enumerate(self.part.zones):
                if self.sharp.get(k) != level:
                    faces.extend(self._skin_faces(k, zone, level))
        for key, step in self.steps.items():
            if key not in self.twin:
                faces.append(self._side_face(key, step))
        numbered = tuple(replace(face, number=n) for n, face in enumerate(faces, 1))
        return with_meshes(connected(Form(self.name, numbered, tuple(self.edges))))

    def _skin_faces(self, k: int, zone: Zone, level: int) -> list[Face]:
        surface = self.skins[k][level].surface
        outwards = self.frames[k].axes[2] * (1 if level == TOP else -1)
        made = []
        for group in loops_of_faces(zone.loops):
            loops = []
            for n in group:
                coedges = []
                for i in range(len(zone.loops[n])):
                    edge, step = self._edge_of((k, n, i), level)
                    coedges.append(Coedge(edge, step.curve, step.start, step.end))
                loops.append(tuple(coedges))
            # z stands out of the sheet at x = y = 0 of a rolled zone too
            normal = surface.normals(np.zeros((1, 2)))[0]
            made.append(_face(surface, loops, bool(normal @ outwards < 0)))
        return made

    def _side_face(self, key: Key, step: Step) -> Face:
        """The face at the edge of the sheet that stands on a step."""
        k = key[0]
        first, last = self._upright(key), self._upright(self.after[key])
        surface, at_top, at_bottom = self._side_surface(k, step)
        corners = [at_top.evaluate(np.array([t]))[0] for t in (step.end, step.start)]
        lower = [at_bottom.evaluate(np.array([t]))[0] for t in (step.end, step.start)]
        loop = [
            Coedge(last[0], _over(corners[0], lower[0], self.part.thickness), 0.0, self.part.thickness),
            Coedge(first[0], _over(corners[1], lower[1], self.part.thickness), self.part.thickness, 0.0),
        ]
        if self.sharp.get(k) != BOTTOM:
            bottom, on_bottom = self._edge_of(key, BOTTOM)
            loop.insert(1, Coedge(bottom, at_bottom, on_bottom.end, on_bottom.start))
        if self.sharp.get(k) != TOP:
            top, on_top = self._edge_of(key, TOP)
            loop.insert(0, Coedge(top, at_top, on_top.start, on_top.end))
        middle = np.array([(step.start + step.end) / 2])
        skin = self.skins[k][TOP]
        uv = step.curve.evaluate(middle)
        if self.sharp.get(k) == TOP:
            skin = self.skins[k][BOTTOM]
        du, dv = skin.surface.derivatives(uv)
        slope = step.curve.derivative(middle)[0] * np.sign(step.end - step.start)
        walk = slope[0] * du[0] + slope[1] * dv[0]
        out = np.cross(walk, self._outwards(k, uv))
        lower_by = 0.5 if isinstance(surface, SplineSurface) else 0.0
        at = at_top.evaluate(middle) + np.array([0.0, lower_by])
        return _face(surface, [loop], bool(surface.normals(at)[0] @ out < 0))

    def _outwards(self, k: int, uv: Array) -> Array:
        surface = self.skins[k][TOP].surface
        at_zero = surface.normals(np.zeros((1, 2)))[0]
        return surface.normals(uv)[0] * np.sign(at_zero @ self.frames[k].axes[2])

    def _side_surface(self, k: int, step: Step) -> tuple[Surface, Curve, Curve]:
        """The surface that stands on a step, and its upper and lower edge in that surface's parameters."""
        top, bottom = (skin.surface for skin in self.skins[k])
        z = self.frames[k].axes[2]
        deep = -self.part.thickness
        ends = np.array([step.start, step.end])
        if isinstance(top, Plane):
            if step.straight:
                return self._plane_on(top, bottom, step)
            curve = _in_space(top, step.curve)
            if isinstance(curve, Ellipse) and curve.kind == "circle":
                radius = float(np.linalg.norm(curve.x_axis))
                x, y = curve.x_axis / radius, curve.y_axis / radius
                axis = np.cross(x, y)
                low = deep * float(np.sign(axis @ z))
                surface = Cylinder(Frame(curve.centre, np.array([x, y, axis])), radius)
                return surface, _level(0.0), _level(low)
            assert not isinstance(curve, OnSurface)
            pulled = Extrusion(curve, z, (float(ends.min()), float(ends.max()), deep, 0.0))
            return pulled, _level(0.0), _level(deep)
        if _along(step, 0):
            return self._plane_on(top, bottom, step)
        if _along(step, 1) and isinstance(top, Cylinder):
            assert isinstance(bottom, Cylinder)
            frame = Frame(top.frame.origin + step.first[1] * top.frame.axes[2], top.frame.axes)
            circles = [Ellipse(np.zeros(2), r * np.array([1.0, 0]), r * np.array([0, 1.0]))
                       for r in (top.radius, bottom.radius)]  # fmt: skip
            return Plane(frame), circles[0], circles[1]
        ruled = _ruled(top, bottom, step)
        return ruled, _level(0.0), _level(1.0)

    @staticmethod
    def _plane_on(top: Surface, bottom: Surface, step: Step) -> tuple[Surface, Curve, Curve]:
        """The plane through a straight step of both skins."""
        ends = step.curve.evaluate(np.array([step.start, step.end]))
        upper, lower = top.evaluate(ends), bottom.evaluate(ends)
        x = (upper[1] - upper[0]) / np.linalg.norm(upper[1] - upper[0])
        up = upper[0] - lower[0]
        y = up - (up @ x) * x
        y = y / np.linalg.norm(y)
        frame = Frame(upper[0], np.array([x, y, np.cross(x, y)]))
        made = []
        for points in (upper, lower):
            a, b = frame.local(points)[:, :2]
            slope = (b - a) / (step.end - step.start)
            made.append(Line(a - step.start * slope, slope))
        return Plane(frame), made[0], made[1]


def as_it_stands(part: SheetPart) -> SheetPart:
    """The part as a solid can be: a bend that is cut across has a least radius, a ring does not close on itself."""
    return replace(part, zones=tuple(_as_it_stands(zone) for zone in part.zones))


def _as_it_stands(zone: Zone) -> Zone:
    """A zone that comes round to itself ends a hair before it does: no solid has two edges in one place."""
    if zone.roll is None:
        return zone
    if isinstance(zone.roll, ConeRoll):
        low, high = zone.roll.around(zone.loops)
        if high - low < TURN * (1 - HAIR):
            return zone
        wider = np.arcsin(np.sin(zone.roll.half_angle) * (1 + HAIR))
        return replace(zone, roll=replace(zone.roll, half_angle=float(wider)))
    if zone.roll.radius < LEAST_RADIUS and not _is_plain(zone):
        return replace(zone, roll=replace(zone.roll, radius=LEAST_RADIUS))
    low, high = width_of(zone)
    if high - low < TURN * zone.roll.neutral * (1 - HAIR):
        return zone
    return replace(zone, roll=replace(zone.roll, neutral=zone.roll.neutral * (1 + HAIR)))


def _through(top: Array, bottom: Array) -> tuple[Line, float, float]:
    """The line from one point (3,) to another over its length."""
    size = float(np.linalg.norm(bottom - top))
    return Line(top, (bottom - top) / size), 0.0, size


def _over(first: Array, last: Array, size: float) -> Line:
    """The line of parameters that is at ``first`` for 0 and at ``last`` for ``size``."""
    return Line(first, (last - first) / size)


def _level(v: float) -> Line:
    """The line of a surface's parameters at one value of the second."""
    return Line(np.array([0.0, v]), np.array([1.0, 0.0]))


def is_sharp(roll: Roll | ConeRoll | None, thickness: float) -> bool:
    """Whether the followed side of a bend is the edge of its walls, for want of an inside radius."""
    return isinstance(roll, Roll) and roll.skin(0.0, thickness) < LEAST_RADIUS / 2


def _is_plain(zone: Zone) -> bool:
    """Whether a bend is nothing but strips from wall to wall: nothing is cut into it."""
    return all(len(loop) == 4 and [s.joint is None for s in loop].count(True) == 2 and
               all(_along(s, 0) or _along(s, 1) for s in loop) for loop in zone.loops)  # fmt: skip


def _along(step: Step, other: int) -> bool:
    """Whether a straight step keeps one of the two parameters; ``other`` is that one."""
    if not step.straight:
        return False
    way = np.abs(step.last - step.first)
    return bool(way[other] <= STRAIGHT * max(1.0, way[1 - other]))


def _in_space(surface: Plane | Cylinder | Cone, curve: Curve) -> Curve | OnSurface:
    """A curve in a skin's parameters as a curve in space, over the same parameter."""
    if isinstance(surface, Plane):
        frame = surface.frame
        if isinstance(curve, Line):
            return Line(frame.world(_deep(curve.origin)), frame.directions(_deep(curve.direction)))
        if isinstance(curve, Ellipse):
            x, y = (frame.directions(_deep(axis)) for axis in (curve.x_axis, curve.y_axis))
            return Ellipse(frame.world(_deep(curve.centre)), x, y)
        return Spline(curve.knots, frame.world(_deep(curve.control)), curve.degree, curve.weights)
    if isinstance(curve, Line):
        step = Step(curve, 0.0, 1.0)
        if _along(step, 0):
            ends = surface.evaluate(curve.evaluate(np.array([0.0, 1.0])))
            return Line.between(ends[0], ends[1])
        if _along(step, 1) and abs(curve.direction[0] - 1) < STRAIGHT and abs(curve.origin[0]) < STRAIGHT:
            frame, v = surface.frame, curve.origin[1]
            slant = surface.half_angle if isinstance(surface, Cone) else 0.0
            radius = surface.radius + v * np.sin(slant)
            centre = frame.origin + v * np.cos(slant) * frame.axes[2]
            return Ellipse(centre, radius * frame.axes[0], radius * frame.axes[1])
    return OnSurface(surface, curve)


def _deep(points: Array) -> Array:
    """Points of the plane (…, 2) as points in space."""
    return np.concatenate([points, np.zeros((*np.shape(points)[:-1], 1))], axis=-1)


def _ruled(top: Surface, bottom: Surface, step: Step) -> SplineSurface:
    """The surface of straight lines between a step on both skins: u is the step's parameter, v from 0, above, to 1."""
    from scipy.interpolate import make_interp_spline

    low, high = sorted((step.start, step.end))

    def pair(t: Array) -> Array:
        uv = step.curve.evaluate(t)
        return np.stack([top.evaluate(uv), bottom.evaluate(uv)], axis=1)

    count = 33
    while True:
        t = np.linspace(low, high, count)
        spline = make_interp_spline(t, pair(t), 5)
        between = (t[:-1] + t[1:]) / 2
        off = float(np.linalg.norm(spline(between) - pair(between), axis=2).max())
        if off < FITTED or count > 2000:
            break
        count = 2 * count - 1
    if off > 100 * FITTED:
        raise CannotBeDone("A cut across a bend is too crooked to be given a face; make its curve smoother.")
    return SplineSurface(spline.t, np.array([0.0, 0.0, 1.0, 1.0]), np.asarray(spline.c), 5, 1)


def _face(surface: Surface, loops: Sequence[Sequence[Coedge]], is_reversed: bool) -> Face:
    """A face whose loops run round it with the material on their left, however they were walked."""
    ways = tuple(tuple(loop) for loop in loops)
    signed = sum(area([tuple(Step(c.curve, c.start, c.end) for c in loop)]) for loop in ways)
    if signed < 0:
        ways = tuple(tuple(replace(c, start=c.end, end=c.start) for c in reversed(loop)) for loop in ways)
    face = Face(0, surface, is_reversed, ways, 0.0)
    return replace(face, area=face_area(face))


def loops_of_faces(loops: tuple[Loop, ...]) -> list[list[int]]:
    """The places of loops that are one face: each outer one with the holes in it."""
    signed = [area([loop]) for loop in loops]
    outer = [n for n, a in enumerate(signed) if a > 0]
    if len(outer) == 1:
        return [[outer[0], *(n for n in range(len(loops)) if n != outer[0])]]
    groups = {n: [n] for n in outer}
    for n, a in enumerate(signed):
        if a <= 0:
            at = loops[n][0].first[None]
            around = [o for o in outer if region([loops[o]]).contains(at)[0]]
            groups[min(around, key=lambda o: signed[o], default=outer[0])].append(n)
    return list(groups.values())
