"""A wall that is rolled to a cone, in steps: flats that run together at an apex, with small bends between them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np

from ..errors import CannotBeDone, Refused
from ..geometry.curves import Array, Line
from ..geometry.surfaces import Frame
from ..record import record
from .allowance import Rule
from .bending import LEAST, turn_between
from .cone_roll import ConeRoll, fitted
from .part import Joint, SheetPart, Zone
from .resizing import Ends, ends_on
from .ridges import BEYOND, Ridge, RidgeLine, bent_along, rectangle
from .step_walls import Plane, WallBeside, require_apart, up_to_walls, wall_beside
from .stepping import Chords, Stepped, Steps, chords
from .zones import STRAIGHT, Loop, Step, backwards, carved

FITTED = 1e-7
"""Curves on flats are fitted within this, in mm: both sides of a joint must find the same end."""
LOOKED_AT = 65
"""At so many places along a curve it is looked where it crosses a ridge."""


def in_flats(part: SheetPart, at: int, steps: Steps, radius: float, rule: Rule) -> tuple[SheetPart, Stepped]:
    """A rolled cone as flats. Circles about its axis become straight ends, rulings stay.

    Raises Refused and CannotBeDone.
    """
    zone = part.zones[at]
    roll = zone.roll
    assert isinstance(roll, ConeRoll)
    least, most = roll.inside_radii(zone.loops, part.thickness)
    if radius >= least:
        raise Refused(
            f"The steps' radius of {radius:g} mm is no smaller than that of the cone where it is narrowest, "
            f"{least:.4g} mm."
        )
    loops = tuple(tuple(roll.rolled_up(step) for step in loop) for loop in zone.loops)
    low, high = roll.around(zone.loops)
    walls = ends_on(part, at, low, high, lambda point: float(roll.parameters(point[None])[0, 0]))
    on = [bool(numbers) for numbers in walls]
    placed = chords(high - low, steps.count, steps.side, sum(on))
    flats = _Flats.of(roll, placed, low + on[0] * placed.first, part.thickness)
    width = _widest(flats, least, most, radius, on)
    beside = _beside(part, at, flats, loops, walls, radius)
    zones, joints = _bent(flats, zone, loops, radius, beside, part.thickness, rule, max(part.joints, default=-1) + 1)
    made = _in_place(part, at, zones, joints, beside)
    if part.stays == at:
        made = replace(made, frame=flats.standing(part))
    return made, Stepped(steps.count, width, most * flats.off)


@record
class _Flats:
    """The flats in place of a cone, each in a plane of its own with the apex at the origin and its middle along y.

    Numbers -1 and ``count`` mean the walls before and behind them, whose planes have the ruling along y on which they
    touch the cone, ``first`` radians round the axis from the corners of the flats. Corners begin at the angle ``low``;
    ``half_angle`` is that of the cone on which the middles of the flats lie, ``apex`` the place along the slant of the
    apex of the inside. ``off`` is how far flats are off at most, as a part of the radius there.
    """

    roll: ConeRoll
    count: int
    low: float
    step: float
    first: float
    half_angle: float
    apex: float
    off: float

    @staticmethod
    def of(roll: ConeRoll, placed: Chords, low: float, thickness: float) -> _Flats:
        middles = np.tan(roll.half_angle) * placed.size * np.cos(placed.step / 2)
        apex = -roll.radius(roll.inside(thickness)) / np.sin(roll.half_angle)
        off = placed.off * np.cos(roll.half_angle)
        half_angle = float(np.arctan(middles))
        return _Flats(roll, placed.count, low, placed.step, placed.first, half_angle, float(apex), float(off))

    def corner(self, k: int) -> float:
        """The angle round the axis at the corner before a flat."""
        return self.low + k * self.step

    def middle(self, k: int) -> float:
        """The angle round the axis of the line along y of a plane."""
        if k < 0:
            return self.low - self.first
        return self.corner(k) + (self.first if k == self.count else self.step / 2)

    def plane(self, k: int, uv: Array) -> Array:
        """Points (n, 2) of plane k for angle and place along the slant: out from the axis at their height."""
        rise = (uv[:, 1] - self.apex) * np.cos(self.roll.half_angle)
        half_angle, _ = self._lies(k)
        aside = rise * np.tan(half_angle) * np.tan(uv[:, 0] - self.middle(k))
        return np.column_stack([aside, self.roll.way * rise / np.cos(half_angle)])

    def line(self, k: int, side: int) -> RidgeLine:
        """The ridge on the right of plane k (side 0: it lies before the ridge), or on its left (1)."""
        half_angle, turn = self._lies(k)
        lean = self.roll.way * np.sin(half_angle) * np.tan(turn) * (1 if side == 0 else -1)
        return RidgeLine(np.zeros(2), np.array([lean, 1.0]) / np.hypot(lean, 1.0))

    def _lies(self, k: int) -> tuple[float, float]:
        """The half angle of the cone that a plane touches, and how far round the axis from there its ridge is."""
        if 0 <= k < self.count:
            return self.half_angle, self.step / 2
        return self.roll.half_angle, self.first

    def turn(self, walls: bool) -> float:
        """The angle between two flats, or between the first or last one and the ``walls`` beside it."""
        sine, cosine = np.sin(self.half_angle), np.cos(self.half_angle)
        if not walls:
            return float(2 * np.arcsin(cosine * np.sin(self.step / 2)))
        away = self.first + self.step / 2
        flat = np.array([cosine * np.cos(away), cosine * np.sin(away), -sine])
        wall = np.array([np.cos(self.roll.half_angle), 0.0, -np.sin(self.roll.half_angle)])
        return turn_between(flat, wall)

    def standing(self, part: SheetPart) -> Frame:
        """Where the plane of the first flat stands in space, where the cone is the zone that stays."""
        height = self.roll.inside(part.thickness)
        cone = self.roll.skin(part.frame, height)
        radial, around, axis = cone.frame.axes
        apex = cone.frame.origin - cone.radius / np.tan(cone.half_angle) * axis
        turn, lean = self.middle(0), self.half_angle
        out = np.cos(turn) * radial + np.sin(turn) * around
        x = np.cos(turn) * around - np.sin(turn) * radial
        y = self.roll.way * (np.sin(lean) * out + np.cos(lean) * axis)
        z = np.cross(x, y)
        return Frame(apex - height * z, np.array([x, y, z]))


def _widest(flats: _Flats, least: float, most: float, radius: float, on: list[bool]) -> float:
    """How wide the flats are at the wide end. Raises CannotBeDone where bends meet at the narrow one."""
    count = flats.count
    inner = radius * np.tan(flats.turn(False) / 2)
    outer = radius * np.tan(flats.turn(True) / 2)
    deep = max(
        (outer if k == 0 and on[0] else inner if k > 0 else 0.0)
        + (outer if k == count - 1 and on[1] else inner if k < count - 1 else 0.0)
        for k in range(count)
    )
    lean = np.sin(flats.half_angle) * np.tan(flats.step / 2)
    grown = 2 * abs(lean / np.sin(flats.roll.half_angle) * np.cos(flats.roll.half_angle) / np.cos(flats.half_angle))
    taken = deep * np.hypot(lean, 1.0)
    if grown * least <= taken:
        raise CannotBeDone(
            f"At its narrow end the cone's {count} flats are {grown * least:.4g} mm wide each, too narrow for bends of "
            f"radius {radius:g} mm between them; take fewer, or a smaller radius."
        )
    return float(grown * most - taken)


def _beside(
    part: SheetPart, at: int, flats: _Flats, loops: tuple[Loop, ...], walls: Ends, radius: float
) -> tuple[tuple[WallBeside, ...], tuple[WallBeside, ...]]:
    """The walls before and behind the flats, as they are then."""
    deep = radius * float(np.tan(flats.turn(True) / 2))
    found = []
    for side, numbers in enumerate(walls):
        k = flats.count if side else -1
        corner = flats.corner(flats.count * side)
        wedge: list[Loop] = []
        if numbers and flats.first > 0:
            ends = (corner, np.inf) if side else (-np.inf, corner)
            wedge = _on_plane(flats, k, _free(_between(flats.roll, loops, *ends)))
        made = []
        for number in numbers:
            joint = part.joints[number]
            v = float(flats.roll.parameters(joint.line(at)[0][None])[0, 1])
            place = Plane.at(joint.line(joint.other(at)), flats.roll.way * (v - flats.apex), side)
            made.append(wall_beside(part, number, joint.other(at), place, flats.line(k, side), side, deep, wedge))
        require_apart(made)
        found.append(tuple(made))
    return found[0], found[1]


def _on_plane(flats: _Flats, k: int, loops: Sequence[Loop]) -> list[Loop]:
    return [tuple(_mapped(step, lambda uv: flats.plane(k, uv)) for step in loop) for loop in loops]


def _bent(
    flats: _Flats, zone: Zone, loops: tuple[Loop, ...], radius: float, beside: Sequence[Sequence[WallBeside]],
    thickness: float, rule: Rule, number: int,
) -> tuple[tuple[Zone, ...], dict[int, Joint]]:  # fmt: skip
    """The flats and the bends between them, and beside them where walls are."""
    made, ridges = [], []
    for k in range(flats.count):
        mine = _free(_between(flats.roll, loops, flats.corner(k), flats.corner(k + 1)))
        if not mine:
            raise CannotBeDone("A flat of a cone in steps would be nothing but a hole; take fewer steps.")
        made.append(Zone(tuple(_on_plane(flats, k, mine)), faces=zone.faces))
    for k in range(flats.count + 1):
        lines = (flats.line(k - 1, 0), flats.line(k, 1))
        sides = (k - 1 if k > 0 else None, k if k < flats.count else None)
        near = _near(flats, loops, k)
        if 0 < k < flats.count:
            ridges.append(Ridge(sides, lines, flats.turn(False), near))
        elif beside[k > 0]:
            ridges.append(Ridge(sides, lines, flats.turn(True), up_to_walls(near, beside[k > 0])))
    return bent_along(made, ridges, radius, flats.roll.up, thickness, rule, number)


def _near(flats: _Flats, loops: tuple[Loop, ...], k: int) -> tuple[Loop, ...]:
    """What lies about the ridge before flat k, to the middles of the flats beside it, as seen from the ridge.

    At walls it goes to where the cone ends.
    """
    ridge = flats.corner(k)
    left = flats.middle(k - 1) if k > 0 else -np.inf
    right = flats.middle(k) if k < flats.count else np.inf
    found = []
    for loop in _free(_between(flats.roll, loops, left, right)):
        walk = []
        for step in loop:
            for piece in _split(step, ridge):
                before = (piece.first[0] + piece.last[0]) / 2 < ridge
                plane, side = (k - 1, 0) if before else (k, 1)
                mapped = _mapped(piece, lambda uv, plane=plane: flats.plane(plane, uv))  # type: ignore[misc]
                walk.append(flats.line(plane, side).seen([(mapped,)])[0][0])
        found.append(tuple(walk))
    return tuple(found)


def _between(roll: ConeRoll, loops: tuple[Loop, ...], left: float, right: float) -> list[Loop]:
    """What of a region, in angle and place along the slant, lies between two angles.

    Its loops run clockwise there where the followed side is the inside.
    """
    points = np.vstack([s.points() for loop in loops for s in loop])
    low, high = points.min(axis=0) - BEYOND, points.max(axis=0) + BEYOND
    cutters = []
    if left > points[:, 0].min() + STRAIGHT:
        cutters.append(rectangle(low[0], left, low[1], high[1], None, right=True))
    if right < points[:, 0].max() - STRAIGHT:
        cutters.append(rectangle(right, high[0], low[1], high[1], None, right=False))
    found = [loop for part in carved(loops, cutters) for loop in part]
    return [backwards(loop) for loop in found] if cutters and roll.way < 0 else found


def _free(loops: list[Loop]) -> list[Loop]:
    """Without joints."""
    return [tuple(replace(step, joint=None) for step in loop) for loop in loops]


def _mapped(step: Step, through: Callable[[Array], Array]) -> Step:
    """A step in angle and place along the slant on a flat: rulings and circles about the axis are straight there."""
    first, last = step.first, step.last
    if isinstance(step.curve, Line) and (abs(first[0] - last[0]) < LEAST * 1e-3 or abs(first[1] - last[1]) < LEAST):
        ends = through(np.array([first, last]))
        return Step.between(ends[0], ends[1], step.joint, step.edge)
    return fitted(step, through, False, FITTED)


def _split(step: Step, ridge: float) -> list[Step]:
    """A step in pieces that end where it crosses an angle."""
    from scipy.optimize import brentq  # slow to import

    t = np.linspace(step.start, step.end, LOOKED_AT)
    off = step.curve.evaluate(t)[:, 0] - ridge
    off[np.abs(off) < LEAST * 1e-3] = 0.0
    if not off.any():  # a ruling at the ridge itself
        return [step]
    crossing = np.flatnonzero(off[:-1] * off[1:] < 0)

    def away(at: float) -> float:
        return float(step.curve.evaluate(np.array([at]))[0, 0] - ridge)

    places = [brentq(away, t[k], t[k + 1], xtol=1e-15) for k in crossing] + t[1:-1][off[1:-1] == 0].tolist()
    ends = [step.start, *sorted(places, reverse=step.start > step.end), step.end]
    return [replace(step, start=a, end=b) for a, b in pairwise(ends)]


def _in_place(
    part: SheetPart, at: int, made: tuple[Zone, ...], joints: dict[int, Joint], beside: Sequence[Sequence[WallBeside]]
) -> SheetPart:
    """The part with flats and bends in place of a zone, and the walls beside them as they are then."""
    place = [at, *range(len(part.zones), len(part.zones) + len(made) - 1)]
    known = dict(part.joints)
    for number, joint in joints.items():
        known[number] = replace(joint, zones=(place[joint.zones[0]], place[joint.zones[1]]))
    zones = [*part.zones, *made[1:]]
    zones[at] = made[0]
    for wall in (wall for end in beside for wall in end):
        bend = next(k for k, zone in enumerate(made) if any(s.joint == wall.number for s in zone.steps))
        x = max(s.first[0] for s in made[bend].steps if s.joint == wall.number)
        zones[wall.place] = wall.zone
        known[wall.number] = wall.joint(place[bend], x)
    return replace(part, zones=tuple(zones), joints=known)
