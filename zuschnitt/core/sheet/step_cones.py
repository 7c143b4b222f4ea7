"""A wall that is rolled to a cone, in steps: flats that run together at an apex, with small bends between them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from scipy.optimize import brentq

from ..errors import CannotBeDone, Refused
from ..geometry.curves import Array, Line
from ..geometry.surfaces import Frame
from .allowance import Rule
from .bending import LEAST, turn_between
from .cone_roll import ConeRoll, fitted
from .part import Joint, SheetPart, Zone
from .resizing import Ends, ends_on, rejoined, with_walls_grown
from .ridges import BEYOND, Ridge, RidgeLine, bent_along, rectangle
from .stepping import Stepped, Steps, chords
from .zones import STRAIGHT, Loop, Step, carved

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
    if any(on) and steps.side != "inside":
        raise CannotBeDone(
            "A cone that runs on into a wall is made in flats with their corners on the arc only; choose inside."
        )
    flats = _Flats.of(roll, steps, high - low, low, part.thickness)
    width = _widest(flats, least, most, radius, on, steps.count)
    zones, joints = _bent(flats, zone, loops, radius, on, part.thickness, rule, max(part.joints, default=-1) + 1)
    made = _in_place(part, at, zones, joints, walls, flats, radius)
    if part.stays == at:
        made = replace(made, frame=flats.standing(part))
    return made, Stepped(steps.count, width, most * flats.off)


@dataclass(frozen=True)
class _Flats:
    """The flats in place of a cone, each in a plane of its own with the apex at the origin and its middle along y.

    ``half_angle`` is that of the cone on which the middles of the flats lie, ``apex`` the place along the slant of the
    apex of the inside. ``off`` is how far flats are off at most, as a part of the radius there.
    """

    roll: ConeRoll
    count: int
    low: float
    step: float
    half_angle: float
    apex: float
    off: float

    @staticmethod
    def of(roll: ConeRoll, steps: Steps, total: float, low: float, thickness: float) -> _Flats:
        placed = chords(total, steps.count, steps.side, 0)
        middles = np.tan(roll.half_angle) * placed.size * np.cos(placed.step / 2)
        apex = -roll.radius(roll.inside(thickness)) / np.sin(roll.half_angle)
        off = placed.off * np.cos(roll.half_angle)
        return _Flats(roll, steps.count, low, placed.step, float(np.arctan(middles)), float(apex), float(off))

    def middle(self, k: int) -> float:
        """The angle round the axis at the middle of a flat."""
        return self.low + (k + 0.5) * self.step

    def plane(self, k: int, uv: Array) -> Array:
        """Points (n, 2) of flat k for angle and place along the slant: out from the axis at their height."""
        rise = (uv[:, 1] - self.apex) * np.cos(self.roll.half_angle)
        aside = rise * np.tan(self.half_angle) * np.tan(uv[:, 0] - self.middle(k))
        return np.column_stack([aside, self.roll.way * rise / np.cos(self.half_angle)])

    def line(self, side: int) -> RidgeLine:
        """The ridge on the right of a flat (side 0: the flat before it), or on its left (1)."""
        lean = self.roll.way * np.sin(self.half_angle) * np.tan(self.step / 2) * (1 if side == 0 else -1)
        return RidgeLine(np.zeros(2), np.array([lean, 1.0]) / np.hypot(lean, 1.0))

    def turn(self, walls: bool) -> float:
        """The angle between two flats, or between the first or last one and the ``walls`` beside it."""
        sine, cosine = np.sin(self.half_angle), np.cos(self.half_angle)
        if not walls:
            return float(2 * np.arcsin(cosine * np.sin(self.step / 2)))
        flat = np.array([cosine * np.cos(self.step / 2), cosine * np.sin(self.step / 2), -sine])
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

    def slant(self, v: float) -> float:
        """How far up the ridge at the edge of a flat a place along the slant lies, in mm."""
        edge = np.array([self.low, v])
        return float(self.plane(0, edge[None])[0] @ self.line(1).up)


def _widest(flats: _Flats, least: float, most: float, radius: float, on: list[bool], count: int) -> float:
    """How wide the flats are at the wide end. Raises CannotBeDone where bends meet at the narrow one."""
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


def _bent(
    flats: _Flats, zone: Zone, loops: tuple[Loop, ...], radius: float, on: list[bool], thickness: float, rule: Rule,
    number: int,
) -> tuple[tuple[Zone, ...], dict[int, Joint]]:  # fmt: skip
    """The flats and the bends between them."""
    made, ridges = [], []
    for k in range(flats.count):
        mine = _free(_between(loops, flats.middle(k) - flats.step / 2, flats.middle(k) + flats.step / 2))
        if not mine:
            raise CannotBeDone("A flat of a cone in steps would be nothing but a hole; take fewer steps.")
        plane = tuple(tuple(_mapped(step, lambda uv, k=k: flats.plane(k, uv)) for step in loop) for loop in mine)  # type: ignore[misc]
        made.append(Zone(plane, faces=zone.faces))
    for k in range(flats.count + 1):
        inner = 0 < k < flats.count
        if not inner and not on[k > 0]:
            continue
        sides = (k - 1 if k > 0 else None, k if k < flats.count else None)
        lines = tuple(None if flat is None else flats.line(side) for side, flat in enumerate(sides))
        ridges.append(Ridge(sides, (lines[0], lines[1]), flats.turn(not inner), _near(flats, loops, k)))
    return bent_along(made, ridges, radius, flats.roll.up, thickness, rule, number)


def _near(flats: _Flats, loops: tuple[Loop, ...], k: int) -> tuple[Loop, ...]:
    """What lies about the ridge before flat k, to the middles of the flats beside it, as seen from the ridge."""
    ridge = flats.low + k * flats.step
    left = ridge - flats.step / 2 if k > 0 else ridge
    right = ridge + flats.step / 2 if k < flats.count else ridge
    parts = _between(loops, left, right)
    found = []
    for loop in _free(parts) if 0 < k < flats.count else parts:
        walk = []
        for step in loop:
            for piece in _split(step, ridge):
                before = (piece.first[0] + piece.last[0]) / 2 < ridge if k > 0 and k < flats.count else k > 0
                side, flat = (0, k - 1) if before else (1, k)
                mapped = _mapped(piece, lambda uv, flat=flat: flats.plane(flat, uv))  # type: ignore[misc]
                walk.append(flats.line(side).seen([(mapped,)])[0][0])
        found.append(tuple(walk))
    return tuple(found)


def _between(loops: tuple[Loop, ...], left: float, right: float) -> list[Loop]:
    """What of a region, in angle and place along the slant, lies between two angles."""
    points = np.vstack([s.points() for loop in loops for s in loop])
    low, high = points.min(axis=0) - BEYOND, points.max(axis=0) + BEYOND
    cutters = []
    if left > points[:, 0].min() + STRAIGHT:
        cutters.append(rectangle(low[0], left, low[1], high[1], None, right=True))
    if right < points[:, 0].max() - STRAIGHT:
        cutters.append(rectangle(right, high[0], low[1], high[1], None, right=False))
    return [loop for part in carved(loops, cutters) for loop in part]


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
    t = np.linspace(step.start, step.end, LOOKED_AT)
    off = step.curve.evaluate(t)[:, 0] - ridge
    off[np.abs(off) < LEAST * 1e-3] = 0.0
    crossing = np.flatnonzero(off[:-1] * off[1:] < 0)

    def away(at: float) -> float:
        return float(step.curve.evaluate(np.array([at]))[0, 0] - ridge)

    places = [brentq(away, t[k], t[k + 1], xtol=1e-15) for k in crossing] + t[1:-1][off[1:-1] == 0].tolist()
    ends = [step.start, *sorted(places, reverse=step.start > step.end), step.end]
    return [replace(step, start=a, end=b) for a, b in pairwise(ends)]


def _in_place(
    part: SheetPart, at: int, made: tuple[Zone, ...], joints: dict[int, Joint], walls: Ends,
    flats: _Flats, radius: float,
) -> SheetPart:  # fmt: skip
    """The part with flats and bends in place of a zone; its walls end where the bends beside them begin."""
    place = [at, *range(len(part.zones), len(part.zones) + len(made) - 1)]
    known = dict(part.joints)
    for number, joint in joints.items():
        known[number] = replace(joint, zones=(place[joint.zones[0]], place[joint.zones[1]]))
    zones = [*part.zones, *made[1:]]
    zones[at] = made[0]
    deep = radius * float(np.tan(flats.turn(True) / 2))
    for side, numbers in enumerate(walls):
        for number in numbers:
            bend = next(k for k, zone in enumerate(made) if any(s.joint == number for s in zone.steps))
            old = part.joints[number]
            v = float(flats.roll.parameters(old.line(at)[0][None])[0, 1])
            x = max(s.first[0] for s in made[bend].steps) * side
            line = np.array([[x, flats.slant(v)], [0.0, 2.0 * side - 1.0]])
            known[number] = rejoined(old, at, place[bend], line, -deep)
    grown = replace(part, zones=tuple(zones), joints=known)
    return with_walls_grown(grown, walls, np.full(2, -deep))
