"""Whether a folded part passes through itself: which walls and bends would lie in each other."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import shapely

from ..geometry.curves import Array
from ..solids.by_mesh import MeshBody
from .cone_roll import ConeRoll
from .part import Roll, SheetPart, Zone
from .zones import region

SHRUNK = 0.02
"""All zones are made smaller by this part of the thickness on all sides, so that those that only touch stay apart."""
MOST = 200
"""No rolled zone is looked at in more pieces than this."""


@dataclass(frozen=True)
class Passing:
    """Two zones, by their places, that would lie in each other, and the bends, by their numbers, that lead there."""

    zones: tuple[int, int]
    bends: tuple[int, ...]

    def words(self, part: SheetPart) -> str:
        one, other = (part.zones[k] for k in self.zones)
        return f"{one.name} through {other.name}"


def passings(part: SheetPart) -> tuple[Passing, ...]:
    """Pairs of zones that lie in each other when the part is folded."""
    deep = SHRUNK * part.thickness
    frames = part.frames()
    bodies: list[MeshBody] = []
    owner: list[int] = []
    for k, zone in enumerate(part.zones):
        for piece in _pieces(part, k, zone, deep):

            def placed(points: Array, k: int = k) -> Array:
                low = part.surface(k, points[:, :2], 1.0, deep - part.thickness)[0]
                high = part.surface(k, points[:, :2], 1.0, -deep)[0]
                return frames[k].world(np.where(points[:, 2:] > -part.thickness / 2, high, low))

            body = MeshBody.drawn_out(piece, deep - part.thickness, -deep, placed)
            if body is not None:
                bodies.append(body)
                owner.append(k)
    found: set[tuple[int, int]] = set()
    boxes = np.array([body.box for body in bodies])
    for i, j in _near(boxes):
        pair = (owner[i], owner[j])
        if pair[0] != pair[1] and pair not in found:
            shared = bodies[i].common(bodies[j])
            if shared is not None and shared.volume > deep**3:
                found.add(pair)
    return tuple(Passing(pair, _between(part, *pair)) for pair in sorted(found))


def _pieces(part: SheetPart, k: int, zone: Zone, deep: float) -> Iterator[list[Array]]:
    """The zone's region in pieces that are as good as flat, each as rings with the material on their left."""
    shape = region(zone.loops).shape.buffer(-deep, join_style="mitre")
    for cutter in _slices(part, k, zone, deep):
        piece = shape if cutter is None else shape.intersection(cutter)
        for one in shapely.get_parts(piece):
            if isinstance(one, shapely.Polygon) and one.area > deep**2:
                walked = shapely.geometry.polygon.orient(one)
                yield [np.array(ring.coords)[:-1] for ring in (walked.exterior, *walked.interiors)]


def _slices(part: SheetPart, k: int, zone: Zone, deep: float) -> Iterator[shapely.Polygon | None]:
    """Strips along the rulings of a rolled zone, so narrow that their chords are no further off than ``deep``."""
    roll = part.rolled(k, 1.0)
    if roll is None:
        yield None
        return
    points = np.vstack([step.points() for step in zone.steps])
    low, high = points.min(axis=0) - 1.0, points.max(axis=0) + 1.0
    if isinstance(roll, Roll):
        radius = max(abs(roll.skin(0.0, part.thickness)), abs(roll.skin(-part.thickness, part.thickness)))
        at = _steps(points[:, 0].min() / roll.neutral, points[:, 0].max() / roll.neutral, radius, deep) * roll.neutral
        for a, b in pairwise(at):
            yield shapely.box(a, low[1], b, high[1])
        return
    yield from _wedges(roll, zone, max(np.abs(points - roll.apex).max(axis=0)), part.thickness, deep)


def _wedges(roll: ConeRoll, zone: Zone, far: float, thickness: float, deep: float) -> Iterator[shapely.Polygon]:
    first, last = roll.around(zone.loops)
    radius = roll.inside_radii(zone.loops, thickness)[1] + thickness
    turns = _steps(first, last, radius, deep) * np.sin(roll.half_angle)
    reach = 4 * far * np.sign(roll.rho)
    for a, b in pairwise(turns):
        way = np.array([[np.sin(t), roll.way * np.cos(t)] for t in (a, b)])
        yield shapely.Polygon([roll.apex, *(roll.apex + reach * way)])


def _steps(first: float, last: float, radius: float, deep: float) -> Array:
    widest = 2 * np.arccos(max(1 - deep / radius, 0.5))
    return np.linspace(first, last, 1 + int(np.clip(np.ceil((last - first) / widest), 1, MOST)))


def _near(boxes: Array) -> list[tuple[int, int]]:
    """Pairs of bodies whose boxes meet."""
    meets = np.ones((len(boxes), len(boxes)), bool)
    for axis in range(3):
        low, high = boxes[:, 0, axis], boxes[:, 1, axis]
        meets &= (low[:, None] < high[None]) & (low[None] < high[:, None])
    one, other = np.nonzero(np.triu(meets, 1))
    return list(zip(one.tolist(), other.tolist(), strict=True))


def _between(part: SheetPart, one: int, other: int) -> tuple[int, ...]:
    """The bends on the way from one zone to another that lie next to either of them."""
    before = {there: here for _, here, there in part.order}

    def up(zone: int) -> list[int]:
        walk = [zone]
        while walk[-1] in before:
            walk.append(before[walk[-1]])
        return walk

    first, second = up(one), up(other)
    while len(first) > 1 and len(second) > 1 and first[-2:] == second[-2:]:
        first.pop()
        second.pop()
    way = [*first, *second[-2::-1]]
    mine = [part.zones[k].bend for k in way if part.zones[k].bend]
    return tuple(sorted({mine[0], mine[-1]})) if mine else ()
