"""A large bend in steps: flats with small bends between them, for the press brake."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from ..errors import CannotBeDone, Refused, WrongCall
from ..geometry.curves import Array
from .allowance import Rule
from .cone_roll import ConeRoll
from .part import Joint, Roll, SheetPart, Zone, matched
from .resizing import ends_on, moved_joint, on_width, width_of, with_walls_grown
from .zones import Loop, Step, carved, mapped_loops, polygon

SIDES = ("inside", "middle", "outside")
"""Where the flats lie: their corners on the arc, half in and half out, or their middles on it or beyond."""
MOST = 200
LARGE = 50.0
"""From this inside radius on, in mm, a bend is a large one."""
BEYOND = 1.0


@dataclass(frozen=True)
class Steps:
    """Each bend with an inside radius over ``over`` mm becomes ``count`` flats, with small bends between.

    ``side`` is one of SIDES. The small bends have the inside ``radius``, None for that of the part.
    """

    count: int
    over: float = LARGE
    side: str = "inside"
    radius: float | None = None


@dataclass(frozen=True)
class Stepped:
    """What became of one large bend: how many flats, how wide each is, and how far it is off the arc at most, in mm."""

    flats: int
    width: float
    gap: float


def stepped(part: SheetPart, steps: Steps, radius: float, rule: Rule) -> tuple[SheetPart, tuple[Stepped, ...]]:
    """The part with its large bends in steps. Raises Refused and CannotBeDone."""
    if not 1 <= steps.count <= MOST:
        raise WrongCall(f"A bend is made in 1 to {MOST} flats; {steps.count} is no such number.")
    if steps.side not in SIDES:
        raise WrongCall(f"The flats lie {', '.join(SIDES)} of the arc; {steps.side!r} is none of these.")
    large = [k for k, zone in enumerate(part.zones) if isinstance(zone.roll, Roll) and zone.roll.radius > steps.over]
    if not large:
        cones = any(isinstance(zone.roll, ConeRoll) for zone in part.zones)
        also = " Walls that are rolled to cones stay rolled." if cones else ""
        raise CannotBeDone(
            f"No bend has an inside radius over {steps.over:g} mm; name a smaller one to begin from.{also}"
        )
    small = radius if steps.radius is None else steps.radius
    told = []
    for k in large:
        part, about = _one(part, k, steps, small, rule)
        told.append(about)
    return matched(part), tuple(told)


def _one(part: SheetPart, at: int, steps: Steps, radius: float, rule: Rule) -> tuple[SheetPart, Stepped]:
    zone = part.zones[at]
    roll = zone.roll
    assert isinstance(roll, Roll)
    if radius >= roll.radius:
        raise Refused(f"The steps' radius of {radius:g} mm is no smaller than that of the bend, {roll.radius:g} mm.")
    low, high = width_of(zone)
    total = (high - low) / roll.neutral
    walls = ends_on(part, at, low, high)
    count = steps.count
    turns = np.full(count + 1, total / count)
    turns[[0, -1]] /= 2
    runs_on = [walls[0] is not None, walls[1] is not None]
    if not runs_on[0]:
        turns[0] = 0.0
    if not runs_on[1]:
        turns[-1] = 0.0
    vertex, shift = _vertex_radius(roll.radius, total / count, total, steps.side, all(runs_on))
    chord = 2 * vertex * np.sin(total / count / 2)
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
    made = _sliced(part, at, new, lines, turns, radius, allowances, roll.up, walls, shift - set_back[[0, -1]])
    return made, Stepped(count, float(widths.max()), _gap(roll.radius, vertex, total / count, total))


def _vertex_radius(radius: float, step: float, total: float, side: str, both: bool) -> tuple[float, float]:
    """The radius on which the corners of the inner side lie, and by how much the walls grow longer for it, in mm.

    The circle of the corners touches both walls, so a smaller one lies further out.
    """
    if side == "inside" or not both:
        return radius, 0.0
    low, high = radius * 0.5, radius
    for _ in range(100):
        middle = (low + high) / 2
        inwards, outwards = _off(radius, middle, step, total)
        wrong = inwards if side == "outside" else inwards - outwards
        if wrong > 1e-12:
            high = middle
        else:
            low = middle
    vertex = (low + high) / 2
    return vertex, (radius - vertex) * float(np.tan(total / 2))


def _off(radius: float, vertex: float, step: float, total: float) -> tuple[float, float]:
    """How far flats between corners on a circle lie inside of the arc at most, and outside of it."""
    count = round(total / step)
    angles = np.linspace(-total / 2, total / 2, count + 1)
    centre = (radius - vertex) / np.cos(total / 2)  # both circles touch the walls: their centres lie on the bisector
    corners = vertex * np.stack([np.sin(angles), np.cos(angles)], axis=1) + [0.0, centre]
    share = np.linspace(0, 1, 65)[:, None, None]
    points = ((1 - share) * corners[:-1] + share * corners[1:]).reshape(-1, 2)
    away = np.linalg.norm(points, axis=1) - radius
    return float(max(0.0, -away.min())), float(max(0.0, away.max()))


def _gap(radius: float, vertex: float, step: float, total: float) -> float:
    return max(_off(radius, vertex, step, total))


def _sliced(
    part: SheetPart,
    at: int,
    loops: tuple[Loop, ...],
    lines: Sequence[float],
    turns: Array,
    radius: float,
    allowances: Sequence[float],
    up: bool,
    walls: tuple[int | None, int | None],
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
            cutters.append(_half(lines[0] - BEYOND, a, bottom, top, inner[i - 1], right=True))
        if i < len(lines) - 2:
            cutters.append(_half(b, lines[-1] + BEYOND, bottom, top, inner[i], right=False))
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
    for side, number_at in enumerate(walls):
        if number_at is not None:
            x = 0.0 if side == 0 else lines[-1] - lines[-2]
            joints[number_at] = moved_joint(joints[number_at], at, places[-side], x, grown[side])
    made = replace(part, zones=tuple(zones), joints=joints)
    return with_walls_grown(made, walls, grown)


def _half(left: float, right_: float, bottom: float, top: float, joint: int, right: bool) -> Loop:
    """A rectangle that cuts off all on one side of a line; its side on the line, right or left, has the joint."""
    loop = polygon([np.array(p) for p in ((left, bottom), (right_, bottom), (right_, top), (left, top))])
    x = right_ if right else left
    return tuple(
        replace(s, joint=joint) if abs(s.first[0] - x) < 1e-12 and abs(s.last[0] - x) < 1e-12 else s for s in loop
    )


def _free(step: Step, walls: tuple[int | None, int | None], place: int, last: int) -> Step:
    """The joints with walls are kept by the first and the last part only."""
    if step.joint == walls[0] and step.joint is not None and place > 0:
        return replace(step, joint=None)
    if step.joint == walls[1] and step.joint is not None and place < last:
        return replace(step, joint=None)
    return step
