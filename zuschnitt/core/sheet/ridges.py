"""Flats that meet along ridges, with a bend of one radius in place of each ridge."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..errors import CannotBeDone
from ..geometry.curves import Array
from ..record import record
from .allowance import Rule
from .bending import LEAST, setback, slanted_strip
from .part import Joint, Roll, Zone
from .zones import Loop, Step, carved, mapped_loops, polygon

BEYOND = 1.0
"""What is cut off reaches so much further than the region, in mm."""


@record
class RidgeLine:
    """A ridge in the plane of a flat: through ``origin`` (2,), along the unit vector ``up`` (2,).

    Both flats have the same point of the ridge as origin; the one before it lies on its left, the next on its right.
    """

    origin: Array
    up: Array

    @property
    def across(self) -> Array:
        """To the right of it."""
        return np.array([self.up[1], -self.up[0]])

    def seen(self, loops: Sequence[Loop]) -> tuple[Loop, ...]:
        """Loops of the flat's plane with x across the ridge and y along it."""
        turn = np.stack([self.across, self.up])
        return mapped_loops(loops, turn, -turn @ self.origin)


@record
class Ridge:
    """Where two flats, by their places, meet at an angle of ``turn`` radians, or one ends that runs on elsewhere.

    ``lines`` are those on the inside of the bend in the planes before and behind it; a flat is None where the one there
    is none of those given. ``near`` is what lies about the ridge, x across it and y along it, and ends where the bend
    does at a side without a flat; without it the bend runs straight from the ends of the one flat to those of the
    other.
    """

    flats: tuple[int | None, int | None]
    lines: tuple[RidgeLine, RidgeLine]
    turn: float
    near: tuple[Loop, ...] = ()


def bent_along(
    flats: Sequence[Zone], ridges: Sequence[Ridge], radius: float, up: bool, thickness: float, rule: Rule, number: int
) -> tuple[tuple[Zone, ...], dict[int, Joint]]:
    """The flats, then a bend of the inside ``radius`` for each ridge, and the joints between them.

    The ridge k has the joints ``number`` + 2 k and the next after that. At a side without a flat its bend keeps the
    joints that ``near`` has there.
    Raises CannotBeDone where nothing is left of a flat, or two do not meet.
    """
    zones, joints = list(flats), {}
    for k, ridge in enumerate(ridges):
        deep = setback(radius, ridge.turn, thickness, True)
        for side, (flat, line) in enumerate(zip(ridge.flats, ridge.lines, strict=True)):
            if flat is not None:
                zones[flat] = _cut(zones[flat], line, deep, side, number + 2 * k + side)
    for k, ridge in enumerate(ridges):
        marks = (number + 2 * k, number + 2 * k + 1)
        deep = setback(radius, ridge.turn, thickness, True)
        allowance = rule.allowance(ridge.turn, radius, thickness)
        if ridge.near and deep > LEAST:
            loops = _spread(ridge, deep, allowance, marks)
        else:
            loops = _spanned(zones, ridge, allowance, marks, slanted=deep > LEAST)
        if not loops:
            raise CannotBeDone("Two flats do not meet along the bend between them; take fewer, or a smaller radius.")
        faces = tuple(sorted({n for flat in ridge.flats if flat is not None for n in flats[flat].faces}))
        zones.append(Zone(loops, Roll(radius, allowance / ridge.turn, up), faces, angle=ridge.turn))
        for side, (flat, line) in enumerate(zip(ridge.flats, ridge.lines, strict=True)):
            if flat is not None:
                joints[marks[side]] = _joint(flat, line, deep, side, len(zones) - 1, allowance)
    return tuple(zones), joints


def _joint(flat: int, line: RidgeLine, deep: float, side: int, bend: int, allowance: float) -> Joint:
    """Of a flat before a bend (side 0) or after it, with the bend."""
    way = -1.0 if side == 0 else 1.0
    points = np.array([line.origin + way * deep * line.across, [allowance * side, 0.0]])
    return Joint((flat, bend), points, np.array([-way * line.up, [0.0, way]]))


def _cut(zone: Zone, line: RidgeLine, deep: float, side: int, joint: int) -> Zone:
    """A flat that ends ``deep`` mm before a ridge, with the joint there."""
    seen = line.seen(zone.loops)
    points = np.vstack([s.points() for loop in seen for s in loop])
    beyond = points[:, 0].max() + deep if side == 0 else deep - points[:, 0].min()
    if beyond <= LEAST:  # it ends there already
        on = [[s.straight and max(abs(s.first[0]), abs(s.last[0])) < LEAST for s in loop] for loop in seen]
        return replace(zone, loops=tuple(
            tuple(replace(s, joint=joint) if hit else s for s, hit in zip(loop, hits, strict=True))
            for loop, hits in zip(zone.loops, on, strict=True)
        ))  # fmt: skip
    low, high = points.min(axis=0) - BEYOND, points.max(axis=0) + BEYOND
    x = (-deep, max(high[0], 0.0)) if side == 0 else (min(low[0], 0.0), deep)
    turn = np.stack([line.across, line.up]).T
    cutter = mapped_loops([rectangle(x[0], x[1], low[1], high[1], joint, right=side == 1)], turn, line.origin)
    parts = carved(zone.loops, cutter)
    if not parts:
        raise CannotBeDone("A flat is narrower than the bends beside it take; take fewer flats, or a smaller radius.")
    return replace(zone, loops=tuple(loop for each in parts for loop in each))


def _spread(ridge: Ridge, deep: float, allowance: float, joints: tuple[int, int]) -> tuple[Loop, ...]:
    """What lies within ``deep`` mm of a ridge, as wide as the bend is on the flat."""
    points = np.vstack([s.points() for loop in ridge.near for s in loop])
    low, high = points.min(axis=0) - BEYOND, points.max(axis=0) + BEYOND
    cutters = []
    if ridge.flats[0] is not None:
        cutters.append(rectangle(min(low[0], -deep - BEYOND), -deep, low[1], high[1], joints[0], right=True))
    if ridge.flats[1] is not None:
        cutters.append(rectangle(deep, max(high[0], deep + BEYOND), low[1], high[1], joints[1], right=False))
    loops = [loop for part in carved(ridge.near, cutters) for loop in part]
    return mapped_loops(loops, np.diag([allowance / deep / 2, 1.0]), np.array([allowance / 2, 0.0]))


def _spanned(
    zones: Sequence[Zone], ridge: Ridge, allowance: float, joints: tuple[int, int], slanted: bool
) -> tuple[Loop, ...]:
    """A bend between the ends of both flats at a ridge, straight from those of the one to those of the other.

    Unless it may be ``slanted``, it lies where both flats reach: an inside that is a line has one end.
    """
    sides = []
    for flat, line, joint in zip(ridge.flats, ridge.lines, joints, strict=True):
        if flat is None or line is None:
            found = [
                ((float(s.first[1]), float(s.last[1])), s.joint)
                for loop in ridge.near
                for s in loop
                if s.joint is not None
            ]
        else:
            steps = [s for s in zones[flat].steps if s.joint == joint]
            seen = [(s.first - line.origin, s.last - line.origin) for s in steps]
            found = [((float(p @ line.up), float(q @ line.up)), joint) for p, q in seen]
        sides.append(sorted((float(min(ends)), float(max(ends)), mark) for ends, mark in found))
    one, other = sides
    if slanted and len(one) == len(other):
        pairs = [(p, q) for p, q in zip(one, other, strict=True) if min(p[1], q[1]) - max(p[0], q[0]) > LEAST]
    else:  # where one ends that the other has not, both end there
        shared = [((max(p[0], q[0]), min(p[1], q[1])), p[2], q[2]) for p in one for q in other]
        pairs = [((*ends, p), (*ends, q)) for ends, p, q in sorted(shared) if ends[1] - ends[0] > LEAST]
    return tuple(slanted_strip(p[:2], q[:2], allowance, (p[2], q[2])) for p, q in pairs)


def rectangle(left: float, right_: float, bottom: float, top: float, joint: int | None, right: bool) -> Loop:
    """A rectangle that cuts off all on one side of a line; its right side, or its left one, has the joint."""
    loop = polygon([np.array(p) for p in ((left, bottom), (right_, bottom), (right_, top), (left, top))])
    x = right_ if right else left
    return tuple(replace(s, joint=joint) if _on(s, x) else s for s in loop)


def _on(step: Step, x: float) -> bool:
    return abs(step.first[0] - x) < 1e-12 and abs(step.last[0] - x) < 1e-12
