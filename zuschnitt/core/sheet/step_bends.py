"""A large bend in steps: flats with small bends between them, for the press brake."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np

from ..errors import CannotBeDone, Refused, WrongCall
from ..geometry.curves import Array
from ..geometry.surfaces import Frame
from .allowance import Rule
from .cone_roll import ConeRoll
from .part import Joint, Roll, SheetPart, Zone, matched
from .resizing import Ends, ends_on, moved_joint, on_width, width_of, with_walls_grown
from .ridges import BEYOND, rectangle
from .step_cones import in_flats
from .stepping import MOST, Chords, Stepped, Steps, chords
from .zones import Loop, Step, carved, mapped_loops


def stepped(part: SheetPart, steps: Steps, radius: float, rule: Rule) -> tuple[SheetPart, tuple[Stepped, ...]]:
    """The part with its large bends in steps. Raises Refused, CannotBeDone and WrongCall."""
    if not 1 <= steps.count <= MOST:
        raise WrongCall(f"A bend is made in 1 to {MOST} flats; {steps.count} is no such number.")
    large = [k for k, zone in enumerate(part.zones) if _inside_radius(part, zone) > steps.over]
    if not large:
        raise CannotBeDone(f"No bend has an inside radius over {steps.over:g} mm; name a smaller one to begin from.")
    small = radius if steps.radius is None else steps.radius
    told = []
    for k in large:
        _require_flats_beside(part, k)
        make = in_flats if isinstance(part.zones[k].roll, ConeRoll) else _one
        part, about = make(part, k, steps, small, rule)
        told.append(about)
    return matched(part), tuple(told)


def _inside_radius(part: SheetPart, zone: Zone) -> float:
    """In mm; of a cone where it is widest."""
    if isinstance(zone.roll, ConeRoll):
        return zone.roll.inside_radii(zone.loops, part.thickness)[1]
    return zone.roll.radius if zone.roll is not None else 0.0


def _require_flats_beside(part: SheetPart, at: int) -> None:
    """Raises CannotBeDone where a large bend runs on into another one: its flats need flat walls."""
    for joint in part.joints.values():
        if at in joint.zones and part.zones[joint.other(at)].roll is not None:
            size = _inside_radius(part, part.zones[at])
            raise CannotBeDone(
                f"The bend with an inside radius of {size:.4g} mm runs on into another one without a flat between "
                "them, so it cannot be made in steps; leave a flat wall there, or name a larger radius from which on "
                "bends are large.",
                faces=part.zones[at].faces,
            )


def _one(part: SheetPart, at: int, steps: Steps, radius: float, rule: Rule) -> tuple[SheetPart, Stepped]:
    zone = part.zones[at]
    roll = zone.roll
    assert isinstance(roll, Roll)
    if radius >= roll.radius:
        raise Refused(f"The steps' radius of {radius:g} mm is no smaller than that of the bend, {roll.radius:g} mm.")
    low, high = width_of(zone)
    walls = ends_on(part, at, low, high)
    on = [bool(numbers) for numbers in walls]
    placed = chords((high - low) / roll.neutral, steps.count, steps.side, sum(on))
    count, turns = steps.count, placed.turns(on)
    chord = 2 * roll.radius * placed.size * np.sin(placed.step / 2)
    set_back = radius * np.tan(turns / 2)
    widths = chord - set_back[:-1] - set_back[1:]
    if widths.min() <= 0:
        raise CannotBeDone(
            f"{count} flats are {chord:.4g} mm wide each, too narrow for bends of radius {radius:g} mm between them; "
            "take fewer, or a smaller radius."
        )
    allowances = [rule.allowance(turn, radius, part.thickness) if turn > 0 else 0.0 for turn in turns]
    lines = [0.0]
    for k in range(count + 1):
        if turns[k] > 0:
            lines.append(lines[-1] + allowances[k])
        if k < count:
            lines.append(lines[-1] + float(widths[k]))
    new = on_width(zone.loops, low, high, lines[-1])
    shift = roll.radius * float(np.tan(placed.first))
    made = _sliced(part, at, new, lines, turns, radius, allowances, roll.up, walls, shift - set_back[[0, -1]])
    if part.stays == at:
        made = replace(made, frame=_standing(part, roll, placed, low / roll.neutral))
    return made, Stepped(count, float(widths.max()), roll.radius * placed.off)


def _standing(part: SheetPart, roll: Roll, placed: Chords, low: float) -> Frame:
    """Where the first flat of a rolled wall that stays stands: on the arc, whose zone begins at the angle ``low``."""
    sign, size = (1.0, 0.0) if roll.up else (-1.0, part.thickness)
    heading = low + placed.step / 2
    x = np.array([np.cos(heading), 0.0, sign * np.sin(heading)])
    y = np.array([0.0, 1.0, 0.0])
    z = np.cross(x, y)
    inside = roll.radius * placed.size
    corner = np.array([inside * np.sin(low), 0.0, sign * (roll.skin(0.0, part.thickness) - inside * np.cos(low))])
    return Frame(part.frame.world((corner + size * z)[None])[0], part.frame.directions(np.array([x, y, z])))


def _sliced(
    part: SheetPart,
    at: int,
    loops: tuple[Loop, ...],
    lines: Sequence[float],
    turns: Array,
    radius: float,
    allowances: Sequence[float],
    up: bool,
    walls: Ends,
    grown: Array,
) -> SheetPart:
    """The region cut along the lines: bends and flats in turn, in place of the zone."""
    y = np.concatenate([step.points()[:, 1] for loop in loops for step in loop])
    bottom, top = float(y.min()) - BEYOND, float(y.max()) + BEYOND
    number = max(part.joints, default=-1) + 1
    inner = list(range(number, number + len(lines) - 2))
    joints = dict(part.joints)
    zones = list(part.zones)
    places = [at, *range(len(zones), len(zones) + len(lines) - 2)]
    kinds = [k for k in range(2 * len(turns) - 1) if k % 2 or turns[k // 2] > 0]
    for i, (a, b) in enumerate(pairwise(lines)):
        cutters = []
        if i > 0:
            cutters.append(rectangle(lines[0] - BEYOND, a, bottom, top, inner[i - 1], right=True))
        if i < len(lines) - 2:
            cutters.append(rectangle(b, lines[-1] + BEYOND, bottom, top, inner[i], right=False))
        mine = tuple(loop for each in carved(loops, cutters) for loop in each)
        mine = tuple(tuple(_free(s, walls, i, len(lines) - 2) for s in loop) for loop in mine)
        if not mine:
            raise CannotBeDone("A flat of a bend in steps would be nothing but a hole; take fewer steps.")
        kind = kinds[i]
        is_bend = kind % 2 == 0
        roll = Roll(radius, allowances[kind // 2] / turns[kind // 2], up) if is_bend else None
        moved = mapped_loops(mine, np.eye(2), np.array([-a, 0.0]))
        zone = Zone(moved, roll, angle=float(turns[kind // 2]) if is_bend else 0.0, faces=part.zones[at].faces)
        if i == 0:
            zones[at] = zone
        else:
            zones.append(zone)
        if i < len(lines) - 2:
            joints[inner[i]] = Joint(
                (places[i], places[i + 1]), np.array([[b - a, 0.0], [0.0, 0.0]]), np.array([[0.0, 1.0], [0.0, -1.0]])
            )
    for side, numbers in enumerate(walls):
        x = 0.0 if side == 0 else lines[-1] - lines[-2]
        for each in numbers:
            joints[each] = moved_joint(joints[each], at, places[-side], x, grown[side])
    made = replace(part, zones=tuple(zones), joints=joints)
    return with_walls_grown(made, walls, grown)


def _free(step: Step, walls: Ends, place: int, last: int) -> Step:
    """The joints with walls are kept by the first and the last part only."""
    gone = (step.joint in walls[0] and place > 0) or (step.joint in walls[1] and place < last)
    return replace(step, joint=None) if gone else step
