"""Whether a folded part passes through itself: which walls and bends would lie in each other."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from ..geometry.curves import Array
from ..record import record
from .part import SheetPart
from .pieces import zone_bodies

if TYPE_CHECKING:
    from ..solids.by_mesh import MeshBody

SHRUNK = 0.02
"""All zones are made smaller by this part of the thickness on all sides, so that those that only touch stay apart."""


@record
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
    bodies: list[MeshBody] = []
    owner: list[int] = []
    for k, frame in enumerate(part.frames()):
        for body in zone_bodies(part, k, frame, 1.0, deep, inset=deep):
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
