"""Bends that become wider or narrower on the flat, and the walls beside them that end elsewhere for it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from ..errors import CannotBeDone
from ..geometry.curves import Array
from .allowance import Rule
from .part import Joint, Roll, SheetPart, Zone, matched
from .zones import Loop, area, carved, mapped_loops, polygon


def _x(point: Array) -> float:
    return float(point[0])


Ends = tuple[tuple[int, ...], tuple[int, ...]]
"""The joints at the first and at the last line of a rolled zone: one for each wall that hangs on there."""


def ends_on(part: SheetPart, at: int, low: float, high: float, across: Callable[[Array], float] = _x) -> Ends:
    """The joints at both ends of a rolled zone that lies from ``low`` to ``high`` in what ``across`` says of points."""
    found: tuple[list[int], list[int]] = ([], [])
    for number, joint in part.joints.items():
        if at in joint.zones:
            place = across(joint.line(at)[0])
            found[abs(place - high) < abs(place - low)].append(number)
    return tuple(found[0]), tuple(found[1])


def width_of(zone: Zone) -> tuple[float, float]:
    """The least and the largest x of a zone."""
    x = np.concatenate([step.points()[:, 0] for step in zone.steps])
    return float(x.min()), float(x.max())


def sharpened(part: SheetPart, radius: float, rule: Rule) -> SheetPart:
    """With all rounds between two walls gone: sharp corners instead, bent with the inside radius ``radius``."""
    for k, zone in enumerate(part.zones):
        if not isinstance(zone.roll, Roll) or abs(zone.roll.radius - radius) < 1e-12:
            continue
        low, high = width_of(zone)
        walls = ends_on(part, k, low, high)
        beside = [part.zones[part.joints[n].other(k)] for n in (*walls[0], *walls[1])]
        if not all(walls) or any(wall.roll is not None for wall in beside):
            continue
        angle = (high - low) / zone.roll.neutral
        allowance = rule.allowance(angle, radius, part.thickness)
        more = (zone.roll.radius - radius) * float(np.tan(angle / 2))
        zones, joints = list(part.zones), dict(part.joints)
        zones[k] = replace(
            zone, loops=on_width(zone.loops, low, high, allowance), angle=angle,
            roll=replace(zone.roll, radius=radius, neutral=allowance / angle),
        )  # fmt: skip
        for numbers, x in zip(walls, (0.0, allowance), strict=True):
            for number in numbers:
                joints[number] = moved_joint(joints[number], k, k, x, more)
        part = with_walls_grown(replace(part, zones=tuple(zones), joints=joints), walls, np.array([more, more]))
    return matched(part)


def on_width(loops: tuple[Loop, ...], low: float, high: float, width: float) -> tuple[Loop, ...]:
    """The region of a bend from x = ``low`` to ``high`` on another width, from 0.

    Its outline is stretched to it; what is cut out of it is moved only.
    """
    factor = width / (high - low)
    made = list(mapped_loops([loops[0]], np.diag([factor, 1.0]), np.array([-low * factor, 0.0])))
    for loop in loops[1:]:
        points = np.vstack([step.points() for step in loop])
        middle = (points[:, 0].min() + points[:, 0].max()) / 2
        if area([loop]) > 0:  # a further part of the bend
            made.extend(mapped_loops([loop], np.diag([factor, 1.0]), np.array([-low * factor, 0.0])))
        else:
            made.extend(mapped_loops([loop], np.eye(2), np.array([(middle - low) * factor - middle, 0.0])))
    return tuple(made)


def moved_joint(joint: Joint, old: int, new: int, x: float, grown: float) -> Joint:
    """The joint of a wall with a bend, at ``x`` of the bend ``new``; the wall ends ``grown`` mm further out."""
    point, along = joint.line(old)
    return rejoined(joint, old, new, np.array([[x, point[1]], along]), grown)


def rejoined(joint: Joint, old: int, new: int, line: Array, grown: float) -> Joint:
    """The joint of a wall with the bend ``new`` in place of the zone ``old``; the wall ends ``grown`` mm further out.

    ``line`` (2, 2) is a point of it and the direction in which the bend walks there, as the bend has them.
    """
    mine = joint.zones.index(old)
    points, alongs, zones = joint.points.copy(), joint.alongs.copy(), list(joint.zones)
    points[mine], alongs[mine] = line
    zones[mine] = new
    along = alongs[1 - mine]
    points[1 - mine] += grown * np.array([along[1], -along[0]])
    return Joint((zones[0], zones[1]), points, alongs)


def with_walls_grown(part: SheetPart, walls: Ends, grown: Array) -> SheetPart:
    """With the walls at both ends ending so much further out, in mm: grown by a strip, or cut off for less than 0."""
    zones = list(part.zones)
    for numbers, more in zip(walls, grown.tolist(), strict=True):
        for number in numbers if abs(more) >= 1e-12 else ():
            for k in part.joints[number].zones:
                if zones[k].roll is None and any(s.joint == number for s in zones[k].steps):
                    zones[k] = _shifted(zones[k], number, more)
    return replace(part, zones=tuple(zones))


def _shifted(zone: Zone, joint: int, more: float) -> Zone:
    """With its steps at a joint moved outwards, in for a number below 0."""
    strips = []
    for step in zone.steps:
        if step.joint == joint:
            along = (step.last - step.first) / step.length
            out = np.array([along[1], -along[0]])
            a, b = step.first, step.last
            corners = [a, a + more * out, b + more * out, b] if more > 0 else [a, b, b + more * out, a + more * out]
            loop = polygon(corners)
            far = {tuple(np.round(p + more * out, 9)) for p in (a, b)}
            strips.append(tuple(
                replace(s, joint=joint, edge=step.edge)
                if {tuple(np.round(s.first, 9)), tuple(np.round(s.last, 9))} == far else s
                for s in loop
            ))  # fmt: skip
    plain = tuple(tuple(replace(s, joint=None) if s.joint == joint else s for s in loop) for loop in zone.loops)
    parts = carved(plain, [], strips) if more > 0 else carved(plain, strips)
    if not parts:
        raise CannotBeDone("A wall is narrower than the bend beside it takes; take a smaller radius.")
    return replace(zone, loops=tuple(loop for each in parts for loop in each))
