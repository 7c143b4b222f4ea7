"""Bends that become wider or narrower on the flat, and the walls beside them that end elsewhere for it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..errors import CannotBeDone
from ..geometry.curves import Array
from .allowance import Rule
from .part import Joint, Roll, SheetPart, Zone, matched
from .zones import Loop, area, carved, mapped_loops, polygon


def ends_on(part: SheetPart, at: int, low: float, high: float) -> tuple[int | None, int | None]:
    """The joints at the first and the last line of a rolled zone."""
    found: dict[bool, int] = {}
    for number, joint in part.joints.items():
        if at in joint.zones:
            point, _ = joint.line(at)
            found[abs(point[0] - high) < abs(point[0] - low)] = number
    return found.get(False), found.get(True)


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
        if None in walls or any(part.zones[part.joints[n].other(k)].roll is not None for n in walls if n is not None):
            continue
        angle = (high - low) / zone.roll.neutral
        allowance = rule.allowance(angle, radius, part.thickness)
        more = (zone.roll.radius - radius) * float(np.tan(angle / 2))
        zones, joints = list(part.zones), dict(part.joints)
        zones[k] = replace(
            zone, loops=on_width(zone.loops, low, high, allowance), angle=angle,
            roll=replace(zone.roll, radius=radius, neutral=allowance / angle),
        )  # fmt: skip
        for number, x in zip(walls, (0.0, allowance), strict=True):
            assert number is not None
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
    mine = joint.zones.index(old)
    points, zones = joint.points.copy(), list(joint.zones)
    y = points[mine][1]
    points[mine] = [x, y]
    zones[mine] = new
    other = 1 - mine
    along = joint.alongs[other]
    points[other] = points[other] + grown * np.array([along[1], -along[0]])
    return Joint((zones[0], zones[1]), points, joint.alongs)


def with_walls_grown(part: SheetPart, walls: Sequence[int | None], grown: Array) -> SheetPart:
    """With the walls at joints ending so much further out, in mm: grown by a strip, or cut off for less than 0."""
    zones = list(part.zones)
    for number, more in zip(walls, grown.tolist(), strict=True):
        if number is None or abs(more) < 1e-12:
            continue
        for k, zone in enumerate(zones):
            if part.joints[number].zones.count(k) and zone.roll is None and any(s.joint == number for s in zone.steps):
                zones[k] = _shifted(zone, number, more)
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
