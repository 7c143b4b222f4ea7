"""Sharp corners between walls as bends: the walls end where the bend begins, and the bend lies between."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..errors import CannotBeDone
from ..geometry.curves import Array
from .allowance import Rule
from .part import Joint, Roll, SheetPart, Zone
from .zones import Loop, Step, carved

FLARE = 3.0
"""A strip along an edge is widened with the wall's sides, by no more than so many times its depth."""
LEAST = 1e-6
"""What is no longer than this, in mm, is nothing."""


def setback(radius: float, angle: float, thickness: float, up: bool) -> float:
    """How far from a sharp corner, on the followed side, the bend begins that takes its place, in mm."""
    return (radius + (0.0 if up else thickness)) * float(np.tan(angle / 2))


def turn_between(one: Array, other: Array) -> float:
    """The angle in radians between two unit normals (3,), from 0 to pi."""
    return float(np.arctan2(np.linalg.norm(np.cross(one, other)), one @ other))


def strip(zone: Zone, step: Step, deep: float, joint: int | None) -> Loop:
    """The strip of a wall along a straight step, ``deep`` mm wide, with the joint at its inner side.

    Where the wall grows wider from the step on, the strip does so too.
    """
    p, q = step.first, step.last
    along = (q - p) / np.linalg.norm(q - p)
    inwards = np.array([-along[1], along[0]])
    before, after = zone.beside(step)
    wide_p = _flare(before.first - p, -along, inwards, deep) if before.straight else 0.0
    wide_q = _flare(after.last - q, along, inwards, deep) if after.straight else 0.0
    a, b = p + deep * inwards - wide_p * along, q + deep * inwards + wide_q * along
    return (Step.between(p, q), Step.between(q, b), Step.between(b, a, joint, step.edge), Step.between(a, p))


def _flare(way: Array, outwards: Array, inwards: Array, deep: float) -> float:
    """By how much a side that runs on this ``way`` from the end of a step leads outwards over a strip's depth."""
    up, out = float(way @ inwards), float(way @ outwards)
    if up <= LEAST or out <= 0:
        return 0.0
    return min(out / up, FLARE) * deep


def without_strips(zone: Zone, strips: Sequence[Loop], what: str) -> Zone:
    """A wall without strips along its edges.

    Raises CannotBeDone where nothing of the wall is left.
    """
    if not strips:
        return zone
    parts = carved(zone.loops, strips)
    if not parts:
        raise CannotBeDone(
            f"{what} is narrower than the bends at its edges take; take a smaller radius, or leave the wall out.",
            faces=zone.faces,
        )
    return replace(zone, loops=tuple(loop for part in parts for loop in part))


def bend_between(
    zones: Sequence[Zone],
    joints: tuple[int, int],
    joint: Joint,
    angle: float,
    radius: float,
    up: bool,
    thickness: float,
    rule: Rule,
) -> tuple[Zone, Joint, Joint]:
    """The bend that takes the place of a corner, and its joints with both walls.

    ``joint`` says of the line where each wall ends, as if they met there; the bend's own place is len(zones).
    Raises CannotBeDone where the walls do not reach each other along it.
    """
    a, b = joint.zones
    allowance = rule.allowance(angle, radius, thickness)
    spans = _shared(zones, joints, joint)
    if not spans:
        raise CannotBeDone(
            "Two walls do not meet along the bend between them; open that edge, or take a smaller radius."
        )
    loops = tuple(bend_strip(low, high, allowance, joints) for low, high in spans)
    bend = Zone(loops, Roll(radius, allowance / angle, up), angle=angle)
    here = len(zones)
    down, rise = np.array([0.0, -1.0]), np.array([0.0, 1.0])
    first = Joint((a, here), np.array([joint.points[0], [0.0, 0.0]]), np.array([joint.alongs[0], down]))
    second = Joint((here, b), np.array([[allowance, 0.0], joint.points[1]]), np.array([rise, joint.alongs[1]]))
    return bend, first, second


def bend_strip(low: float, high: float, allowance: float, joints: tuple[int, int]) -> Loop:
    """The flat of a bend along its line from ``low`` to ``high``, with the joints at its first and its last line."""
    return slanted_strip((low, high), (low, high), allowance, joints)


def slanted_strip(
    first: tuple[float, float], last: tuple[float, float], allowance: float, joints: tuple[int, int]
) -> Loop:
    """As ``bend_strip``, where its first and its last line have ends of their own."""
    corners = [np.array(p) for p in ((0.0, first[1]), (0.0, first[0]), (allowance, last[0]), (allowance, last[1]))]
    return (
        Step.between(corners[0], corners[1], joints[0]),
        Step.between(corners[1], corners[2]),
        Step.between(corners[2], corners[3], joints[1]),
        Step.between(corners[3], corners[0]),
    )


def _shared(zones: Sequence[Zone], joints: tuple[int, int], joint: Joint) -> list[tuple[float, float]]:
    """Where along a line both walls reach it."""
    spans = []
    for zone, number in zip(joint.zones, joints, strict=True):
        steps = [s for s in zones[zone].steps if s.joint == number]
        spans.append([sorted((joint.place(zone, s.first), joint.place(zone, s.last))) for s in steps])
    both = [(max(p, r), min(q, s)) for p, q in spans[0] for r, s in spans[1]]
    return sorted(span for span in both if span[1] - span[0] > LEAST)


def trimmed(part: SheetPart) -> SheetPart:
    """With bends that are plain strips no longer than both of their walls reach along them."""
    zones = list(part.zones)
    for k, zone in enumerate(part.zones):
        joints = [n for n, joint in part.joints.items() if k in joint.zones]
        if (
            not isinstance(zone.roll, Roll)
            or len(joints) != 2
            or any(len(loop) != 4 or not _plain(loop) for loop in zone.loops)
        ):
            continue
        first, second = sorted(joints, key=lambda n: part.joints[n].line(k)[0][0])
        spans = [_along_bend(part, k, n) for n in (first, second)]
        own = [(min(s.first[1] for s in loop), max(s.first[1] for s in loop)) for loop in zone.loops]
        both = [(max(a, c, e), min(b, d, f)) for a, b in own for c, d in spans[0] for e, f in spans[1]]
        kept = sorted(span for span in both if span[1] - span[0] > LEAST)
        width = max(s.first[0] for s in zone.steps)
        if kept:
            zones[k] = replace(zone, loops=tuple(bend_strip(a, b, width, (first, second)) for a, b in kept))
    return replace(part, zones=tuple(zones))


def _plain(loop: Loop) -> bool:
    return all(step.straight for step in loop) and sum(step.joint is not None for step in loop) == 2


def _along_bend(part: SheetPart, bend: int, number: int) -> list[tuple[float, float]]:
    """Where the wall at a joint reaches along a bend, as y of the bend."""
    joint = part.joints[number]
    wall = joint.other(bend)
    at, along = joint.line(bend)
    way = 1 if bend == joint.zones[0] else -1
    found = []
    for step in part.steps_at.get((number, wall), ()):
        ends = [(at + way * joint.place(wall, p) * along)[1] for p in (step.first, step.last)]
        found.append((min(ends), max(ends)))
    return found
