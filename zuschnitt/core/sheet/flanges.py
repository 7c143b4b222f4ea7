"""Flanges: further walls, bent up or down from free edges of a sheet part."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..errors import CannotBeDone, Refused
from ..record import record
from .allowance import Rule
from .bending import LEAST, bend_strip, strip, trimmed, without_strips
from .measures import MEASURES
from .part import Joint, Roll, SheetPart, Zone, matched
from .zones import Loop, Step

TIP = 2
"""The place of a flange's free end among the steps round its wall."""


@record
class Flange:
    """One at each of ``edges`` (numbers of the form's edges; none for all free ones).

    ``length`` in mm, by one of MEASURES; the wall keeps its outer size. ``angle`` is that of the bend in radians,
    ``radius`` its inside radius in mm, None for that of the part. ``inwards`` away from the outer side of the part.
    ``setback`` in mm at both ends. ``then`` are further walls, each bent from the free end of the one before, whose
    edges do not matter.
    """

    edges: tuple[int, ...]
    length: float
    angle: float = np.pi / 2
    radius: float | None = None
    inwards: bool = True
    setback: float = 0.0
    then: tuple[Flange, ...] = ()
    measure: str = "over"


@record
class OpenCorner:
    """An edge that was opened between two walls: its numbers, the walls' angle in radians, whether it bends up.

    ``setbacks`` are how far each of its walls, ``zones``, ends from the sharp corner.
    """

    edges: tuple[int, ...]
    zones: tuple[int, int]
    angle: float
    up: bool
    setbacks: tuple[float, float]


@record
class _Place:
    """Where a flange is bent: the step of a zone, and the flange. ``number`` is that of its wall (``Zone.flange``).

    By its ``measure`` it is ``more`` mm longer than over its outer faces, for the wall that is bent on from it.
    """

    zone: int
    step: Step
    flange: Flange
    radius: float
    up: bool
    number: tuple[int, int]
    more: float


def flanged(
    part: SheetPart,
    flanges: Sequence[Flange],
    corners: Sequence[OpenCorner],
    bent: set[int],
    radius: float,
    rule: Rule,
    outer: bool,
    gap: float,
) -> SheetPart:
    """The part with flanges. ``bent`` are the form's edges that are bends, where there can be none.

    ``outer`` tells that the followed side is the outer one. Where two meet at an open corner, both are mitred, the
    ``gap`` between them. Raises Refused and CannotBeDone.
    """
    seams = {edge for corner in corners for edge in corner.edges}
    places: list[_Place] = []
    for k, flange in enumerate(flanges):
        _require(flange)
        inside = radius if flange.radius is None else flange.radius
        for zone, step in _steps(part, flange, bent, seams):
            more = _more(flange, radius, part.thickness)
            places.append(_Place(zone, step, flange, inside, flange.inwards != outer, (k, 0), more))
    part, walls = _bent_at(part, places, corners, gap, rule)
    while True:
        further = [(place, wall) for place, wall in zip(places, walls, strict=True) if place.flange.then]
        if not further:
            return matched(trimmed(part))
        places = [_next(part, place, wall, radius, outer) for place, wall in further]
        part, walls = _bent_at(part, places, (), gap, rule)


def _next(part: SheetPart, place: _Place, wall: int, radius: float, outer: bool) -> _Place:
    """Where a further wall is bent from the free end of a flange's ``wall``."""
    first, *rest = place.flange.then
    _require(first)
    flange = replace(first, then=tuple(rest))
    inside = radius if flange.radius is None else flange.radius
    step = part.zones[wall].loops[0][TIP]
    if _slanted(part.zones[wall]):
        # it is mitred, so another one may stand at its corner: this one keeps clear of that
        flange = replace(flange, setback=max(flange.setback, inside + part.thickness))
    number = place.number[0], place.number[1] + 1
    return _Place(wall, step, flange, inside, flange.inwards != outer, number, _more(flange, radius, part.thickness))


def _slanted(wall: Zone) -> bool:
    """Whether a flange's wall is narrower at its free end."""
    foot, tip = wall.loops[0][0], wall.loops[0][TIP]
    return tip.length < foot.length - LEAST


def _bent_at(
    part: SheetPart, places: Sequence[_Place], corners: Sequence[OpenCorner], gap: float, rule: Rule
) -> tuple[SheetPart, list[int]]:
    """The part with a wall bent at each place, and which of its zones these walls are."""
    zones, joints = list(part.zones), dict(part.joints)
    ends = [_ends(part, places, place, corners, gap) for place in places]
    number = max(joints, default=-1) + 1
    strips: dict[int, list[Loop]] = {}
    for k, place in enumerate(places):
        deep = _bend_depth(place, part.thickness)
        mine = strip(part.zones[place.zone], place.step, deep, number + 2 * k)
        strips.setdefault(place.zone, []).append(mine)
    for at, loops in strips.items():
        zones[at] = without_strips(zones[at], loops, f"Wall {part.zones[at].wall}")
    walls = []
    for k, place in enumerate(places):
        _add(zones, joints, part, place, ends[k], number + 2 * k, rule)
        walls.append(len(zones) - 1)
    return replace(part, zones=tuple(zones), joints=joints), walls


def _require(flange: Flange) -> None:
    values = [flange.length, flange.angle, flange.setback, flange.radius or 0.0]
    if not np.isfinite(values).all() or flange.length <= 0 or min(flange.setback, flange.radius or 0.0) < 0:
        raise Refused("A flange needs a length above 0, and no radius or setback below 0; change them.")
    if flange.measure not in MEASURES:
        raise Refused(f"A flange is measured {', '.join(MEASURES)}; {flange.measure!r} is none of these.")
    if not 0 < flange.angle <= np.pi + 1e-9:
        raise Refused("A flange is bent by more than 0 and at most 180 degrees; change the angle.")


def _steps(part: SheetPart, flange: Flange, bent: set[int], seams: set[int]) -> list[tuple[int, Step]]:
    """The steps at which a flange is bent."""
    free: dict[int, list[tuple[int, Step]]] = {}
    for k, zone in enumerate(part.zones):
        for step in zone.steps:
            if zone.roll is None and step.joint is None and step.straight and step.edge and step.edge not in bent:
                free.setdefault(step.edge, []).append((k, step))
    if not flange.edges:
        outer = {id(step) for zone in part.zones for step in zone.loops[0]}
        found = [pair for edge, pairs in free.items() if edge not in seams for pair in pairs if id(pair[1]) in outer]
        if not found:
            raise Refused("The part has no free straight edge for a flange; name an edge.")
        return found
    found = []
    for edge in flange.edges:
        if edge in bent:
            raise Refused(f"Edge {edge} is a bend, so no flange can be put to it; take a free edge.")
        if edge not in free:
            known = ", ".join(map(str, sorted(free))) or "none"
            raise Refused(f"Edge {edge} is no free straight edge of a wall; those are {known}.")
        found.append(max(free[edge], key=lambda pair: pair[1].length))
    return found


def _bend_depth(place: _Place, thickness: float) -> float:
    """How far from the outer size of both, wall and flange, the bend begins."""
    return _corner("over", place.flange.angle, place.radius, thickness)


def _taken(place: _Place, thickness: float) -> float:
    """What of a flange's length its bend takes, in mm: up to the corner of the faces that it is measured over.

    Over a bend of more than 90 degrees it is measured to where that reaches furthest.
    """
    return _corner(place.flange.measure, place.flange.angle, place.radius, thickness) - place.more


def _corner(measure: str, angle: float, radius: float, thickness: float) -> float:
    """How far from where a bend begins the corner lies to which is measured, in mm."""
    deep = {"over": radius + thickness, "inside": radius, "tangent": 0.0}[measure]
    return deep * float(np.tan(min(angle, np.pi / 2) / 2))


def _more(flange: Flange, radius: float, thickness: float) -> float:
    if not flange.then:
        return 0.0
    first = flange.then[0]
    about = first.angle, radius if first.radius is None else first.radius, thickness
    return _corner("over", *about) - _corner(flange.measure, *about)


def _depth(place: _Place, thickness: float, along: float) -> float:
    """How deep below the wall's outer face a flange lies at a place ``along`` it from the end of its bend, in mm."""
    sine, cosine = np.sin(place.flange.angle), np.cos(place.flange.angle)
    outer = (place.radius + thickness) * (1 - cosine)
    inner = thickness + place.radius * (1 - cosine)
    return float(max(outer, inner) + along * sine)


def _ends(
    part: SheetPart, places: Sequence[_Place], place: _Place, corners: Sequence[OpenCorner], gap: float
) -> tuple[tuple[float, float], tuple[float, float]]:
    """At the first and the last end of a step: how far in its flange begins, and by how much farther it ends."""
    found = []
    for beside in part.zones[place.zone].beside(place.step):
        twin = next((p for p in places if p.step is beside and p.up == place.up), None)
        if twin is not None:
            found.append(_at_twin(part, place, twin, gap))
            continue
        corner = next((c for c in corners if beside.edge in c.edges and place.zone in c.zones), None)
        other = None if corner is None else corner.zones[1 - corner.zones.index(place.zone)]
        meets = (
            corner is not None and corner.up == place.up and any(p.zone == other and p.up == place.up for p in places)
        )
        if not meets or corner is None:
            found.append((place.flange.setback, 0.0))
            continue
        slope = float(np.tan(corner.angle / 2))
        already = corner.setbacks[corner.zones.index(place.zone)]
        begin = _depth(place, part.thickness, 0.0) * slope + gap / 2 / max(float(np.cos(corner.angle / 2)), 1e-9)
        leg = place.flange.length - _taken(place, part.thickness)
        widening = max(0.0, leg * float(np.sin(place.flange.angle)) * slope)
        found.append((max(begin - already, 0.0) + place.flange.setback, widening))
    return found[0], found[1]


def _at_twin(part: SheetPart, place: _Place, twin: _Place, gap: float) -> tuple[float, float]:
    """As ``_ends``, where the wall's next edge has a flange too: their inner sides meet, or they are mitred."""
    a, b = place.step.last - place.step.first, twin.step.last - twin.step.first
    turn = abs(float(np.arctan2(a[0] * b[1] - a[1] * b[0], a @ b)))
    slope, apart = float(np.tan(turn / 2)), gap / 2 / max(float(np.cos(turn / 2)), 1e-9)
    deep, leg = _bend_depth(place, part.thickness), place.flange.length - _taken(place, part.thickness)
    sine, cosine = np.sin(place.flange.angle), np.cos(place.flange.angle)

    def inset(along: float) -> float:
        """How far inside of the wall's edge the flange's inner side is, or its outer one where that is further in."""
        inner, outer = (
            deep - radius * sine - along * cosine for radius in (place.radius, place.radius + part.thickness)
        )
        return max(0.0, float(max(inner, outer)))

    begin, tip = inset(0.0) * slope + apart, inset(leg) * slope + apart
    return max(begin, tip if tip < begin else 0.0) + place.flange.setback, max(0.0, tip - begin)


def _add(
    zones: list[Zone],
    joints: dict[int, Joint],
    part: SheetPart,
    place: _Place,
    ends: tuple[tuple[float, float], tuple[float, float]],
    number: int,
    rule: Rule,
) -> None:
    """Adds the bend and the wall of a flange, and their joints."""
    flange, step = place.flange, place.step
    deep = _bend_depth(place, part.thickness)
    taken = _taken(place, part.thickness)
    leg = flange.length - taken
    if leg <= LEAST:
        raise CannotBeDone(
            f"A flange of {flange.length:g} mm is shorter than its bend takes, {taken:.4g} mm; make it longer, or its "
            "radius smaller."
        )
    low, high = ends[0][0], step.length - ends[1][0]
    tip_low, tip_high = low + ends[0][1], high - ends[1][1]
    if high - low <= LEAST or tip_high - tip_low <= LEAST:
        raise CannotBeDone("A flange has no width left between its ends; make it shorter, or set it back less.")
    allowance = rule.allowance(flange.angle, place.radius, part.thickness)
    along = (step.last - step.first) / step.length
    inwards = np.array([-along[1], along[0]])
    bend_at, wall_at = len(zones), len(zones) + 1
    left = [(float((s.first - step.first) @ along), float((s.last - step.first) @ along))
            for s in zones[place.zone].steps if s.joint == number]  # fmt: skip
    spans = [(max(a, low), min(b, high)) for a, b in left if min(b, high) - max(a, low) > LEAST]
    if not spans:
        raise CannotBeDone("A wall has no edge left for a flange; make its radius smaller, or leave the flange out.")
    bend = tuple(bend_strip(a, b, allowance, (number, number + 1)) for a, b in spans)
    tip = [np.array(p) for p in ((0.0, high), (0.0, low), (leg, tip_low), (leg, tip_high))]
    wall = (
        Step.between(tip[0], tip[1], number + 1),
        *(Step.between(a, b) for a, b in ((tip[1], tip[2]), (tip[2], tip[3]), (tip[3], tip[0]))),
    )
    zones.append(Zone(bend, Roll(place.radius, allowance / flange.angle, place.up), angle=flange.angle))
    zones.append(Zone((wall,), flange=place.number))
    down, rise = np.array([0.0, -1.0]), np.array([0.0, 1.0])
    origin = np.zeros(2)
    joints[number] = Joint(
        (place.zone, bend_at), np.array([step.first + deep * inwards, origin]), np.array([along, down])
    )
    joints[number + 1] = Joint((bend_at, wall_at), np.array([[allowance, 0.0], origin]), np.array([rise, down]))
