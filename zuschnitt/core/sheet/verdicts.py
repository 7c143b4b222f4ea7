"""Whether a press brake can make the bends of a part: radius, legs, holes beside them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from ..materials import BEND_RADIUS, Material
from ..record import record
from .part import Roll, SheetPart, Zone
from .passing import Passing
from .resizing import ends_on, width_of
from .zones import region

DIES = (4.0, 6.0, 8.0, 10.0, 12.0, 16.0, 20.0, 25.0, 32.0, 40.0, 50.0, 63.0, 80.0, 100.0, 125.0, 160.0, 200.0)
"""Openings of V dies, in mm. Typical ones, where a shop does not name its own."""
OPENING = 8.0
"""The die's opening is about so many times the thickness."""
LEG = 0.7
"""The shortest outer leg is so much of the opening: it must reach over the die until the bend is done."""
HOLE = 2.0
"""A hole nearer to a bend than so many times the thickness is drawn out of shape."""
SAME = 1e-6


@record
class BendVerdict:
    """Whether a bend can be made, and why it cannot, or what to mind; ``can`` is False where it cannot."""

    can: bool
    reason: str


def die_for(thickness: float, dies: Sequence[float] = DIES) -> float:
    """The opening of the die for a thickness, in mm: the smallest that is large enough, else the largest there is."""
    return next((die for die in sorted(dies) if die >= OPENING * thickness * (1 - 1e-9)), max(dies))


def verdicts(
    part: SheetPart, material: Material | None = None, passed: Sequence[Passing] = (), dies: Sequence[float] = DIES
) -> dict[int, BendVerdict]:
    """The verdict for each bend, by its number. Values are typical; the ``material`` may be unknown.

    ``passed`` are walls that lie in each other when the part is folded, ``dies`` the openings there are, in mm.
    """
    found = {}
    for k, zone in enumerate(part.zones):
        if zone.bend:
            found[zone.bend] = _verdict(part, k, zone, material, dies)
    for each in passed:
        for bend in each.bends:
            wrong = f"It leads {each.words(part)}."
            known = found[bend]
            found[bend] = BendVerdict(False, wrong if known.can else f"{wrong} {known.reason}")
    return found


def _verdict(part: SheetPart, at: int, zone: Zone, material: Material | None, dies: Sequence[float]) -> BendVerdict:
    assert isinstance(zone.roll, Roll)
    t = part.thickness
    least = (material.bend_radius if material else BEND_RADIUS) * t
    wrong = []
    if zone.roll.radius < least - SAME:
        name = material.name if material else "sheet"
        wrong.append(f"its inside radius of {zone.roll.radius:.4g} mm is under the {least:.4g} mm that {name} takes")
    die = die_for(t, dies)
    low, high = width_of(zone)
    outer = (zone.roll.radius + t) * float(np.tan(min(zone.angle, np.pi / 2) / 2))
    first, last = ends_on(part, at, low, high)
    for number in (*first, *last):
        wall = part.joints[number].other(at)
        other = part.zones[wall]
        leg = _leg(part, wall, number) + outer
        if leg < LEG * die - SAME:
            wrong.append(
                f"the leg at {other.name}, {leg:.4g} mm, is shorter than a die of {die:g} mm needs, {LEG * die:.4g} mm"
            )
        near = _nearest_hole(part, wall, number)
        if near is not None and near < HOLE * t - SAME:
            wrong.append(f"a hole in {other.name} is {near:.3g} mm from it, nearer than {HOLE:g} times the thickness")
    holes = sum(1 for loop in zone.loops if loop is not zone.loops[0])
    if holes and region([zone.loops[0]]).shape.area - region(zone.loops).shape.area > SAME:
        wrong.append("a hole lies in it and will be drawn out of shape")
    if wrong:
        text = "; ".join(wrong)
        return BendVerdict(False, f"{text[0].upper()}{text[1:]} (typical values).")
    return BendVerdict(True, f"A die of {die:g} mm does it (typical values).")


def _leg(part: SheetPart, wall: int, joint: int) -> float:
    """How far a wall reaches from a joint, in mm, square to it."""
    at, along = part.joints[joint].line(wall)
    out = np.array([along[1], -along[0]])
    points = np.vstack([step.points() for step in part.zones[wall].loops[0]])
    return float(-((points - at) @ out).min())


def _nearest_hole(part: SheetPart, wall: int, joint: int) -> float | None:
    """How near a hole of a wall comes to a joint, in mm."""
    zone = part.zones[wall]
    lines = [shapely.LineString([s.first, s.last]) for s in zone.steps if s.joint == joint]
    holes = [np.vstack([s.points() for s in loop]) for loop in zone.loops[1:]]
    if not lines or not holes:
        return None
    edge = shapely.union_all(lines)
    return float(min(edge.distance(shapely.LineString(hole)) for hole in holes))
