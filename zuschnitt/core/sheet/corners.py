"""Corners of the flat: reliefs where two bends meet, and rounded outer corners."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace

import numpy as np

from ..errors import CannotBeDone, Refused
from ..geometry.curves import Array, Ellipse
from ..record import record
from .part import Roll, SheetPart, matched
from .zones import Loop, Step, carved, disc, mapped_loops, polygon

SHAPES = ("none", "square", "round")
NEAR = 1e-6
CORNER = 1e-3
"""Two sides that turn by less than this, in radians, have no corner between them."""
CATCHES = 1.0
"""A corner is meant by a point of the flat no further from it than this, in mm, and than what a round takes of it."""
TAKES = 2.5
"""A round of a corner begins no further from it than so many times its radius, but for very pointed ones."""


@record
class Relief:
    """What is cut out where two bends meet. ``size`` in mm is the side or the diameter, None for what clears both."""

    shape: str = "none"
    size: float | None = None


def relieved(part: SheetPart, relief: Relief) -> tuple[SheetPart, int]:
    """The part with reliefs, and at how many corners. Raises Refused."""
    if relief.shape not in SHAPES:
        raise Refused(f"A corner relief is one of {', '.join(SHAPES)}; {relief.shape!r} is none of them.")
    if relief.size is not None and not (np.isfinite(relief.size) and relief.size > 0):
        raise Refused("The size of the corner reliefs must be above 0; change it.")
    if relief.shape == "none":
        return part, 0
    cutters: dict[int, list[Loop]] = {}
    count = 0
    for one, other in _meeting(part):
        centre, turn = _crossing(part, one, other)
        if centre is None:
            continue
        count += 1
        size = relief.size or _clearing(part, one, other, relief.shape)
        shape = _shape(relief.shape, size, centre, turn)
        for k in range(len(part.zones)):
            place = part.places[k]
            inverse = place.turn.T
            cutters.setdefault(k, []).extend(mapped_loops([shape], inverse, -inverse @ place.shift))
    return (cut_out(part, cutters), count) if count else (part, 0)


def cut_out(part: SheetPart, cutters: dict[int, list[Loop]]) -> SheetPart:
    """Without what lies in the loops, for each zone in its own plane. Pieces that hang on nothing fall out."""
    zones = list(part.zones)
    for k, loops in cutters.items():
        low, high = _box(part.zones[k].loops[0])
        boxes = [_box(loop) for loop in loops]
        near = [loop for loop, (least, most) in zip(loops, boxes, strict=True)
                if (most > low + NEAR).all() and (least < high - NEAR).all()]  # fmt: skip
        if not near:
            continue
        parts = carved(part.zones[k].loops, near)
        kept = [each for each in parts if any(s.joint is not None for loop in each for s in loop)] or parts[:1]
        if not kept:
            raise CannotBeDone("A cut takes away a whole wall or bend; make it smaller.")
        zones[k] = replace(part.zones[k], loops=tuple(loop for each in kept for loop in each))
    return matched(replace(part, zones=tuple(zones)))


def _box(loop: Loop) -> tuple[Array, Array]:
    points = np.vstack([step.points() for step in loop])
    return points.min(axis=0), points.max(axis=0)


def _meeting(part: SheetPart) -> list[tuple[int, int]]:
    """Pairs of bends of one wall whose bend lines follow each other round it."""
    found = []
    for wall, zone in enumerate(part.zones):
        if zone.roll is not None:
            continue
        for loop in zone.loops:
            bends = [(k, s) for k, s in enumerate(loop) if s.joint is not None]
            for (i, s), (j, t) in zip(bends, [*bends[1:], *bends[:1]], strict=True):
                between = loop[i + 1 : j] if j > i else (*loop[i + 1 :], *loop[:j])
                if s.joint == t.joint or s is t or sum(x.length for x in between) > 4 * part.thickness:
                    continue
                pair = tuple(part.joints[step.joint].other(wall) for step in (s, t) if step.joint is not None)
                if all(isinstance(part.zones[z].roll, Roll) for z in pair):
                    found.append((pair[0], pair[1]))
    return found


def _axis(part: SheetPart, bend: int) -> tuple[Array, Array, float]:
    """A point of the middle line of a bend on the flat, its direction, and the bend's width."""
    zone, place = part.zones[bend], part.places[bend]
    x = np.concatenate([s.points()[:, 0] for s in zone.steps])
    middle = np.array([[(x.min() + x.max()) / 2, 0.0]])
    return place.apply(middle)[0], place.turn @ np.array([0.0, 1.0]), float(np.ptp(x))


def _crossing(part: SheetPart, one: int, other: int) -> tuple[Array | None, Array]:
    """Where the middle lines of two bends cross, and the direction of the first."""
    (p, a, _), (q, b, _) = _axis(part, one), _axis(part, other)
    matrix = np.stack([a, -b], axis=1)
    if abs(np.linalg.det(matrix)) < 1e-6:
        return None, a
    return p + np.linalg.solve(matrix, q - p)[0] * a, a


def _clearing(part: SheetPart, one: int, other: int, shape: str) -> float:
    """A size that takes away where both bends would be bent at once, and half a thickness round it."""
    wide = max(_axis(part, one)[2], _axis(part, other)[2])
    return wide * (np.sqrt(2) if shape == "round" else 1.0) + part.thickness


def _shape(kind: str, size: float, centre: Array, along: Array) -> Loop:
    if kind == "round":
        return disc(centre, size / 2)
    across = np.array([-along[1], along[0]])
    return polygon([centre + size / 2 * (x * along + y * across) for x, y in ((-1, -1), (1, -1), (1, 1), (-1, 1))])


def rounded(
    part: SheetPart, radius: float, chamfer: bool = False, at: Sequence[tuple[float, float]] = ()
) -> tuple[SheetPart, int, int]:
    """With the free outer corners of walls rounded, or cut off: how many, and how many had no room for it.

    ``radius`` in mm; of a chamfer the length that is cut off both sides. With ``at``, points of the flat, only the
    corners there. Raises Refused, also where there is no corner.
    """
    if not (np.isfinite(radius) and radius >= 0):
        raise Refused("The radius of the corners must be 0 or more; change it.")
    if radius == 0:
        return part, 0, 0
    done = short = 0
    zones = []
    chosen = _corners_at(part, at, radius) if at else None
    for place, zone in enumerate(part.zones):
        mine = None if chosen is None else {k for where, k in chosen if where == place}
        if zone.roll is not None or mine == set():
            zones.append(zone)
            continue
        loop, made, missed = _rounded(zone.loops[0], radius, chamfer, 4 * part.thickness, mine)
        done, short = done + made, short + missed
        zones.append(replace(zone, loops=(loop, *zone.loops[1:])))
    return replace(part, zones=tuple(zones)), done, short


def _corners_at(part: SheetPart, at: Sequence[tuple[float, float]], radius: float) -> set[tuple[int, int]]:
    """The corners at points of the flat, by their wall's place and that of the step that begins there."""
    names, places = [], []
    for place, zone in enumerate(part.zones):
        for k, step in enumerate(zone.loops[0] if zone.roll is None else ()):
            if CORNER < _turn(zone.loops[0][k - 1], step) < np.pi - CORNER:
                names.append((place, k))
                places.append(part.places[place].apply(step.first[None])[0])
    found = set()
    for point in at:
        away = np.linalg.norm(np.array(places) - point, axis=1) if places else np.array([np.inf])
        if away.min() > CATCHES + TAKES * radius:
            raise Refused(f"No outer corner of the flat lies at {point[0]:.4g}, {point[1]:.4g}; click one.")
        found.add(names[int(np.argmin(away))])
    return found


def _rounded(
    loop: Loop, radius: float, chamfer: bool, least: float, only: Collection[int] | None
) -> tuple[Loop, int, int]:
    count = len(loop)
    cut: list[float] = [0.0] * count
    """By how much is cut off at the beginning of each step, and of the one before at its end."""
    short = 0
    for k, step in enumerate(loop):
        before = loop[k - 1]
        turn = _turn(before, step)
        if not CORNER < turn < np.pi - CORNER or (only is not None and k not in only):
            continue
        need = radius if chamfer else radius * float(np.tan(turn / 2))
        if need < min(before.length, step.length) - NEAR:
            cut[k] = need
        elif min(before.length, step.length) > least:  # a step at the end of a bend is no outer corner
            short += 1
    for k, step in enumerate(loop):  # two corners of one step must both have room
        after = (k + 1) % count
        if cut[k] and cut[after] and cut[k] + cut[after] > step.length + NEAR:
            cut[after] = 0.0
            short += 1
    made: list[Step] = []
    for k, step in enumerate(loop):
        begin, end = cut[k], cut[(k + 1) % count]
        way = (step.last - step.first) / step.length if step.straight else np.zeros(2)
        first = step.first + begin * way
        if begin:
            back = loop[k - 1]
            last = back.last - begin * (back.last - back.first) / back.length
            made.append(Step.between(last, first) if chamfer else _arc(last, first, back, radius))
        if not begin and not end:
            made.append(step)
        elif step.length - begin - end > NEAR:
            made.append(Step.between(first, step.last - end * way, step.joint, step.edge))
    return tuple(made), sum(1 for c in cut if c), short


def _turn(before: Step, after: Step) -> float:
    """By how much the boundary turns left between two free straight steps, in radians; 0 for others."""
    if not (before.straight and after.straight) or before.joint is not None or after.joint is not None:
        return 0.0
    a, b = before.last - before.first, after.last - after.first
    return float(np.arctan2(a[0] * b[1] - a[1] * b[0], a @ b))


def _arc(first: Array, last: Array, before: Step, radius: float) -> Step:
    along = (before.last - before.first) / before.length
    inwards = np.array([-along[1], along[0]])
    centre = first + radius * inwards
    x, y = radius * np.array([1.0, 0.0]), radius * np.array([0.0, 1.0])
    start, end = (float(np.arctan2(*(p - centre)[::-1])) for p in (first, last))
    return Step(Ellipse(centre, x, y), start, start + (end - start) % (2 * np.pi))
