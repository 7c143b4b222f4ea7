"""Faces of one skin as zones in their own planes, joined where the sheet runs on."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence

import numpy as np

from ..errors import CannotBeDone
from ..form.form import Coedge, Edge, Face, Form
from ..geometry.curves import Array, Line
from ..geometry.surfaces import TURN, Cone, Cylinder, Frame, Plane
from ..record import record
from .allowance import Rule
from .bending import turn_between
from .cone_roll import ConeRoll
from .facing import bulges, handed, outwards
from .part import Joint, Roll, Zone
from .skins import between_cones, coaxial
from .zones import STRAIGHT, Loop, Step, area, backwards, mapped_loops, walked_round

ALIKE = 1e-3
"""Surfaces that are no further apart than this, in mm, are one."""
LEAST = 1e-6
"""An inside radius under this, in mm, is none."""
AS_THICK = 5e-3
"""Radii that differ by no more than this part of the thickness are one."""


@record
class Corner:
    """A sharp edge between two walls, or several on one line, ``edges`` by their numbers.

    ``zones`` are the places of the walls, ``angle`` that of the bend, in radians;
    ``up`` tells that it bends towards the followed side.
    """

    zones: tuple[int, int]
    edges: tuple[int, ...]
    angle: float
    up: bool


@record
class Unfolded:
    """``zones`` with their ``frames`` in space, ``joints`` where they run on smoothly, sharp ``corners``.

    ``torn`` are edges, by their numbers, at which the skin goes on as no sheet can, ``come_round`` those at which a
    zone comes round to itself. ``edges_of`` has for each joint the numbers of the form's edges that it is.
    """

    zones: tuple[Zone, ...]
    frames: tuple[Frame, ...]
    joints: Mapping[int, Joint]
    corners: tuple[Corner, ...]
    torn: tuple[int, ...]
    come_round: tuple[int, ...]
    edges_of: Mapping[int, tuple[int, ...]]


def unfolded(form: Form, side: Sequence[int], thickness: float, rule: Rule) -> Unfolded:
    """The faces of a skin as zones."""
    return _Unfolding(form, side, thickness, rule).whole()


class _Unfolding:
    def __init__(self, form: Form, side: Sequence[int], thickness: float, rule: Rule) -> None:
        self.form, self.thickness, self.rule = form, thickness, rule
        self.faces = {number: form.face(number) for number in side}
        self.coedges: dict[int, dict[int, Coedge]] = defaultdict(dict)
        for number, face in self.faces.items():
            for loop in face.loops:
                for c in loop:
                    if c.edge >= 0:
                        self.coedges[c.edge][number] = c
        self.shared = {edge: tuple(on) for edge, on in self.coedges.items() if len(on) == 2}

    def whole(self) -> Unfolded:
        groups = self._groups()
        zones: list[Zone] = []
        frames: list[Frame] = []
        group_of: dict[int, int] = {}
        for group in groups:
            zone, frame = self._zone(group)
            group_of.update(dict.fromkeys(group, len(zones)))
            zones.append(zone)
            frames.append(frame)
        by_line: dict[tuple[int, int, bool], list[list[int]]] = defaultdict(list)
        torn = []
        for edge, (one, other) in self.shared.items():
            a, b = group_of[one], group_of[other]
            if a == b:
                continue
            if not self._straight(edge):
                torn.append(edge + 1)
                continue
            smooth = self.form.edges[edge].smooth
            if not smooth and not (zones[a].roll is None and zones[b].roll is None):
                torn.append(edge + 1)
                continue
            lines = by_line[min(a, b), max(a, b), smooth]
            mine = next((line for line in lines if self._one_line(line[0], edge)), None)
            if mine is None:
                lines.append([edge])
            else:
                mine.append(edge)
        joints: dict[int, Joint] = {}
        edges_of: dict[int, tuple[int, ...]] = {}
        corners: list[Corner] = []
        for (a, b, smooth), lines in by_line.items():
            for line in lines:
                numbers = tuple(edge + 1 for edge in line)
                if smooth:
                    number = len(joints)
                    joints[number] = self._joint(zones, a, b, line[0])
                    edges_of[number] = numbers
                    for k in (a, b):
                        zones[k] = zones[k].joined(numbers, number)
                else:
                    corners.append(self._corner(zones, a, b, frames, line))
        return Unfolded(
            tuple(zones), tuple(frames), joints, tuple(corners), tuple(sorted(torn)), _come_round(zones), edges_of
        )

    # --- faces that are one zone ---------------------------------------------------------------

    def _groups(self) -> list[tuple[int, ...]]:
        root = {number: number for number in self.faces}

        def find(number: int) -> int:
            while root[number] != number:
                number = root[number]
            return number

        beside: dict[int, set[int]] = defaultdict(set)
        for one, other in self.shared.values():
            beside[one].add(other)
            beside[other].add(one)
            if self._one_surface(self.faces[one], self.faces[other]):
                root[find(one)] = find(other)
        rolled = [n for n, face in self.faces.items() if isinstance(face.surface, Cylinder | Cone)]
        for k, one in enumerate(rolled):
            for other in rolled[:k]:
                common = {find(n) for n in beside[one]} & {find(n) for n in beside[other]}
                if len(common) >= 2 and self._one_surface(self.faces[one], self.faces[other]):
                    root[find(one)] = find(other)
        groups: dict[int, list[int]] = defaultdict(list)
        for number in self.faces:
            groups[find(number)].append(number)
        return [tuple(sorted(group)) for group in groups.values()]

    @staticmethod
    def _one_surface(one: Face, other: Face) -> bool:
        a, b = one.surface, other.surface
        if isinstance(a, Plane) and isinstance(b, Plane):
            n, m = outwards(one), outwards(other)
            return bool(n @ m > 1 - 1e-9 and abs((b.frame.origin - a.frame.origin) @ n) < ALIKE)
        if isinstance(a, Cone) and isinstance(b, Cone):
            alike = coaxial(a, b) and abs(between_cones(a, b)) < ALIKE
            return bool(alike and bulges(one) == bulges(other))
        if isinstance(a, Cylinder) and isinstance(b, Cylinder):
            axis, apart = a.frame.axes[2], b.frame.origin - a.frame.origin
            aside = float(np.linalg.norm(apart - (apart @ axis) * axis))
            alike = abs(a.radius - b.radius) < ALIKE and aside < ALIKE and bulges(one) == bulges(other)
            return bool(alike and abs(axis @ b.frame.axes[2]) > 1 - 1e-9)
        return False

    # --- zones ------------------------------------------------------------------------------------

    def _zone(self, group: Sequence[int]) -> tuple[Zone, Frame]:
        """The faces of a group as one zone, with its frame in space."""
        first = self.faces[group[0]]
        if isinstance(first.surface, Plane):
            roll, neutral = None, 1.0
        elif isinstance(first.surface, Cylinder):
            up = not bulges(first)
            inside = first.surface.radius - (0.0 if up else self.thickness)
            if inside < -AS_THICK * self.thickness:
                raise CannotBeDone(
                    f"Face {first.number} bends round less than the thickness of the sheet; it is no bend.",
                    faces=[first.number],
                )
            inside = inside if inside > LEAST else 0.0
            angle = self._sweep(first)
            neutral = self.rule.allowance(angle, inside, self.thickness) / angle
            roll = Roll(inside, neutral, up)
        elif isinstance(first.surface, Cone):
            return self._cone(group)
        else:
            raise CannotBeDone(
                f"Face {first.number} is neither flat nor a part of a cylinder or cone, and a sheet part cannot have "
                "it; leave it out, or develop it by itself.",
                faces=[first.number],
            )
        frame = _frame(first)
        loops: list[Loop] = []
        for number in group:
            face = self.faces[number]
            matrix, shift = into_zone(face, first, neutral)
            own = tuple(tuple(Step(c.curve, c.start, c.end, None, c.edge + 1) for c in loop) for loop in face.loops)
            laid = mapped_loops(own, matrix, shift)
            loops.extend(tuple(step.straightened() for step in loop) for loop in laid)
        return Zone(_without_inner(loops), roll, tuple(group)), frame

    def _cone(self, group: Sequence[int]) -> tuple[Zone, Frame]:
        """The faces of one cone as one zone, its origin in the middle of the first one."""
        faces = [self.faces[number] for number in group]
        first = faces[0]
        surface = first.surface
        assert isinstance(surface, Cone)
        for face in faces:
            if any(c.edge < 0 for loop in face.loops for c in loop):
                raise CannotBeDone(
                    f"Face {face.number} is a cone up to its tip, and no sheet is rolled as narrow as that; cut its "
                    "tip off.",
                    faces=[face.number],
                )
        hand = handed(first)  # of a left-handed frame the axis is turned round, and v with it
        slant, up = hand * surface.half_angle, not bulges(first)
        cosine, sine = np.cos(slant), np.sin(slant)
        u, v = np.concatenate([c.uv(np.linspace(c.start, c.end, 9)) for loop in first.loops for c in loop]).T
        v, middle = hand * v, (u.min() + u.max()) / 2
        # across a cone it is bent as a cylinder is whose radius is that of the curvature there
        inside = (surface.radius + (v.min() + v.max()) / 2 * sine) / cosine - (0.0 if up else self.thickness)
        narrow = min(surface.radius + end * sine for end in (v.min(), v.max())) / cosine
        if narrow < (0.0 if up else self.thickness):
            raise CannotBeDone(
                f"Face {first.number} bends round less than the thickness of the sheet at its narrow end; cut it off "
                "there.",
                faces=[first.number],
            )
        angle = float(np.ptp(u)) * cosine
        kept = self.rule.allowance(angle, inside, self.thickness) / angle - inside
        depth = kept if up else kept - self.thickness
        roll = ConeRoll(float((surface.radius + depth * cosine) / sine), slant, depth, up)
        loops: list[Loop] = []
        for face in faces:
            matrix, shift = _onto(face, first)
            matrix, shift = np.diag([1.0, hand]) @ matrix, np.array([1.0, hand]) * shift - [middle, 0.0]
            own = tuple(tuple(Step(c.curve, c.start, c.end, None, c.edge + 1) for c in loop) for loop in face.loops)
            laid = tuple(tuple(roll.laid(step.mapped(matrix, shift).straightened()) for step in loop) for loop in own)
            loops.extend(tuple(step.straightened() for step in loop) for loop in _left_inside(laid))
        return Zone(_without_inner(loops), roll, tuple(group)), _cone_frame(first, middle)

    def _sweep(self, face: Face) -> float:
        u = np.concatenate([c.uv(np.linspace(c.start, c.end, 9))[:, 0] for loop in face.loops for c in loop])
        return float(np.ptp(u))

    # --- where they meet --------------------------------------------------------------------------

    def _straight(self, edge: int) -> bool:
        along = self.form.edges[edge]
        if isinstance(along.curve, Line):
            return True
        points = along.curve.evaluate(np.linspace(along.start, along.end, 17))
        chord = points[-1] - points[0]
        size = float(np.linalg.norm(chord))
        aside = np.linalg.norm(np.cross(points - points[0], chord), axis=1)
        return bool(size > STRAIGHT and aside.max() <= STRAIGHT * size)

    def _one_line(self, one: int, other: int) -> bool:
        a, b = (_ends(self.form.edges[k]) for k in (one, other))
        along = (a[1] - a[0]) / np.linalg.norm(a[1] - a[0])
        off = (b - a[0]) - np.outer((b - a[0]) @ along, along)
        return bool(np.linalg.norm(off, axis=1).max() < ALIKE)

    def _joint(self, zones: Sequence[Zone], a: int, b: int, edge: int) -> Joint:
        points, alongs = [], []
        for k in (a, b):
            step = next(s for s in zones[k].steps if s.edge == edge + 1)
            along = step.last - step.first
            points.append(step.curve.evaluate(np.array([self.form.edges[edge].start]))[0])
            alongs.append(along / np.linalg.norm(along))
        return Joint((a, b), np.array(points), np.array(alongs))

    def _corner(self, zones: Sequence[Zone], a: int, b: int, frames: Sequence[Frame], line: Sequence[int]) -> Corner:
        n, m = frames[a].axes[2], frames[b].axes[2]
        angle = turn_between(n, m)
        edge = line[0]
        number = next(f for f in self.coedges[edge] if f in zones[a].faces)
        c = self.coedges[edge][number]
        ends = self.form.edges[edge].curve.evaluate(np.array([c.start, c.end]))
        along = (ends[1] - ends[0]) / np.linalg.norm(ends[1] - ends[0])
        if self.faces[number].reversed:
            along = -along
        # walking with a on the left, b's material lies on the right; where its normal turns that way, it bends down
        return Corner((a, b), tuple(k + 1 for k in line), angle, bool(np.cross(n, m) @ along < 0))


def into_zone(face: Face, first: Face, neutral: float) -> tuple[Array, Array]:
    """The affine map from a face's parameters to the plane of a zone that begins with the face ``first``."""
    a, b = first.surface, face.surface
    if isinstance(a, Plane):
        assert isinstance(b, Plane)
        frame = _frame(first)
        origin, x, y = frame.local(np.array([b.frame.origin, *(b.frame.origin + b.frame.axes[:2])]))[:, :2]
        return np.stack([x - origin, y - origin], axis=1), origin
    assert isinstance(a, Cylinder)
    flip = handed(first) * (1.0 if bulges(first) else -1.0)
    matrix, shift = _onto(face, first)
    scale = np.array([neutral, flip])
    return np.diag(scale) @ matrix, scale * shift


def _onto(face: Face, first: Face) -> tuple[Array, Array]:
    """The affine map from a round face's parameters to those of another one on the same cylinder or cone."""
    a, b = first.surface, face.surface
    assert isinstance(a, Cylinder | Cone) and isinstance(b, Cylinder | Cone)
    if face is first:
        return np.eye(2), np.zeros(2)
    uv = np.vstack([c.uv(np.array([c.start])) for loop in face.loops for c in loop])
    to = a.project(b.evaluate(uv))
    same = 1.0 if a.frame.axes[2] @ b.frame.axes[2] > 0 else -1.0
    off = to[:, 0] - same * uv[:, 0]
    turns = np.round((off[0] - off) / TURN)
    shift_u = float(np.mean(off + turns * TURN))
    shift_u -= TURN * np.round(_turns_off(first, face, same, shift_u) / TURN)
    shift_v = float(np.mean(to[:, 1] - same * uv[:, 1]))
    return np.diag([same, same]), np.array([shift_u, shift_v])


def _turns_off(first: Face, face: Face, same: float, shift: float) -> float:
    """By how much more than needed a face's angles, as those of the first one, lie away from the first one's."""
    mine, other = (
        np.concatenate([c.uv(np.linspace(c.start, c.end, 9))[:, 0] for loop in f.loops for c in loop])
        for f in (first, face)
    )
    moved = same * other + shift
    return float((moved.min() + moved.max()) / 2 - (mine.min() + mine.max()) / 2)


def _frame(face: Face) -> Frame:
    """Where the plane of a zone that begins with this face stands: at x = y = 0, x and y along, z outwards."""
    surface = face.surface
    if isinstance(surface, Plane):
        x, y, _ = surface.frame.axes
        z = outwards(face)
        return Frame(surface.frame.origin, np.array([-x if face.reversed else x, y, z]))
    assert isinstance(surface, Cylinder)
    x, y, _ = surface.frame.axes
    z = x if bulges(face) else -x
    return Frame(surface.frame.origin + surface.radius * x, np.array([y, np.cross(z, y), z]))


def _cone_frame(face: Face, angle: float) -> Frame:
    """Where the plane of a zone on a cone stands: at its origin, at that angle; x round the axis, z outwards."""
    surface = face.surface
    assert isinstance(surface, Cone)
    at = np.array([[angle, 0.0]])
    around, along = (way[0] / np.linalg.norm(way[0]) for way in surface.derivatives(at))
    normal = handed(face) * np.cross(around, along)
    z = normal if bulges(face) else -normal
    return Frame(surface.evaluate(at)[0], np.array([around, np.cross(z, around), z]))


def _left_inside(loops: tuple[Loop, ...]) -> tuple[Loop, ...]:
    """Loops with the material on their left: a map that mirrors has turned them."""
    if area(loops) > 0:
        return loops
    return tuple(backwards(loop) for loop in loops)


def _ends(edge: Edge) -> Array:
    return edge.curve.evaluate(np.array([edge.start, edge.end]))


def _without_inner(loops: Sequence[Loop]) -> tuple[Loop, ...]:
    """Loops of faces that are one zone, joined: what two of them walk along goes."""
    times: dict[int, int] = defaultdict(int)
    for loop in loops:
        for step in loop:
            times[step.edge] += 1
    inner = {edge for edge, count in times.items() if count == 2 and edge}
    if not inner:
        return tuple(loops)
    after: dict[int, int] = {}
    steps: list[Step] = []
    for loop in loops:
        start = len(steps)
        steps.extend(loop)
        after.update({start + k: start + (k + 1) % len(loop) for k in range(len(loop))})
    twin: dict[int, int] = {}
    first: dict[int, int] = {}
    for k, step in enumerate(steps):
        if step.edge in inner:
            if step.edge in first:
                twin[k], twin[first[step.edge]] = first[step.edge], k
            first.setdefault(step.edge, k)
    if all(_apart(steps[k], steps[twin[k]]) for k in twin):
        return tuple(loops)  # a seam: the zone comes round to itself
    return tuple(tuple(steps[k] for k in walk) for walk in walked_round(range(len(steps)), after, twin))


def _come_round(zones: Sequence[Zone]) -> tuple[int, ...]:
    """The edges that a zone walks along twice, by their numbers."""
    times: dict[int, int] = defaultdict(int)
    for zone in zones:
        for edge in {step.edge for step in zone.steps if step.edge and step.joint is None}:
            times[edge] += sum(1 for step in zone.steps if step.edge == edge) - 1
    return tuple(sorted(edge for edge, count in times.items() if count > 0))


def _apart(one: Step, other: Step) -> bool:
    return bool(np.linalg.norm(one.first - other.last) > 1e-3)
