"""A sheet part put in order: without what hangs on nothing, its walls and bends numbered, its flat laid."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely

from ..correspondence import Rigid
from ..errors import Refused
from ..form.form import Form
from ..geometry.surfaces import Frame
from .part import Roll, SheetPart
from .resizing import width_of
from .zones import region

GRID = 1e-6
"""What zones share is looked for on a grid of this width, in mm."""
OVER = 1e-3
"""Zones may lie over each other by so much, in mm², from rounding."""


def without_loose(part: SheetPart, kept: set[int], frames: Sequence[Frame]) -> SheetPart:
    """Without zones that hang on nothing; the zone that stays is the first wall of the largest area."""
    used = {zone for joint in part.joints.values() for zone in joint.zones}
    if not used:
        used = {max(range(len(part.zones)), key=lambda k: part.zones[k].area)}
    order = sorted(used)
    new = {old: k for k, old in enumerate(order)}
    zones = tuple(part.zones[old] for old in order)
    joints = {n: replace(j, zones=(new[j.zones[0]], new[j.zones[1]])) for n, j in part.joints.items()}
    walls = [k for k, old in enumerate(order) if old < len(frames)]
    flat = [k for k in walls if zones[k].roll is None] or walls
    stays = max(flat, key=lambda k: zones[k].area)
    return replace(part, zones=zones, joints=joints, stays=stays, frame=frames[order[stays]])


def numbered(part: SheetPart) -> SheetPart:
    """With its walls and bends numbered. A rolled zone with a zone at both sides is a bend, another one a wall."""
    at: dict[int, int] = {}
    for joint in part.joints.values():
        for place in joint.zones:
            at[place] = at.get(place, 0) + 1
    walls = bends = 0
    zones = []
    for k, zone in enumerate(part.zones):
        if isinstance(zone.roll, Roll) and not zone.roll.rolled and at.get(k, 0) >= 2:
            bends += 1
            low, high = width_of(zone)
            angle = zone.angle or (high - low) / zone.roll.neutral
            zones.append(replace(zone, bend=bends, wall=0, angle=angle))
        else:
            walls += 1
            zones.append(replace(zone, bend=0, wall=walls))
    return replace(part, zones=tuple(zones))


def overlap(part: SheetPart) -> float:
    """By how much zones lie over each other on the flat, in mm²."""
    shapes = []
    for zone, place in zip(part.zones, part.places, strict=True):
        shape = region(zone.loops).shape
        shapes.append(shapely.transform(shape, place.apply))
    one, other = shapely.STRtree(shapes).query(shapes, predicate="intersects")
    apart = one < other
    # without a grid, of two that only touch the whole one is given at times
    both = shapely.intersection(np.take(shapes, one[apart]), np.take(shapes, other[apart]), grid_size=GRID)
    return float(shapely.area(both).sum())


def staying(form: Form, part: SheetPart, number: int) -> SheetPart:
    """With the wall of a face as the one that stays where it is."""
    if not number:
        return laid_along(part)
    form.face(number)
    for k, zone in enumerate(part.zones):
        if number in zone.faces:
            return laid_along(replace(part, stays=k, frame=part.frames()[k]))
    raise Refused(f"Face {number} is no wall of the followed side; pick one that is.")


def laid_along(part: SheetPart) -> SheetPart:
    """With the flat laid so that the longest straight side of the wall that stays runs along x from the origin."""
    steps = [step for step in part.zones[part.stays].loops[0] if step.straight]
    if not steps:
        return part
    longest = max(steps, key=lambda step: (round(step.length, 6), step.edge))
    cosine, sine = (longest.last - longest.first) / longest.length
    turn = np.array([[cosine, sine], [-sine, cosine]])
    return replace(part, root=Rigid(turn, -turn @ longest.first))
