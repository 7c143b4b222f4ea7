"""Small parts laid in the holes of larger ones, before anything is laid on a sheet."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
import shapely

from .part import Part, Placed, moved

GRID = 7
"""A part is tried at so many places across and up a hole."""
TRIED = (0.0, 90.0, 180.0, 270.0)
Carry = Callable[[Placed], list[Placed]]


def laid_in_holes(
    parts: Sequence[Part], turns: tuple[float, ...] | None, gap: float
) -> tuple[dict[int, Carry], list[Part]]:
    """What lies in the holes of which part, by its id, as a function of where that is laid; and the parts left."""
    left = sorted(parts, key=lambda part: -part.shape.area)
    inside: dict[int, Carry] = {}
    for part in list(left):
        if not any(part is other for other in left) or not part.holes:
            continue
        laid: list[Placed] = []
        for hole in part.holes:
            for small in [other for other in left if other is not part and other.shape.area < hole.area]:
                if id(small) in inside:  # it holds others itself
                    continue
                placed = _in_hole(small, hole, [p.shape for p in laid], turns or TRIED, gap)
                if placed is not None:
                    laid.append(placed)
                    left = [other for other in left if other is not small]
        if laid:
            inside[id(part)] = _carried(laid)
    return inside, left


def _in_hole(
    part: Part, hole: shapely.Polygon, others: Sequence[shapely.Polygon], turns: Sequence[float], gap: float
) -> Placed | None:
    room = shapely.buffer(hole, -gap) if gap > 0 else hole
    for other in others:
        room = shapely.difference(room, shapely.buffer(other, gap))
    if room.is_empty or room.area < part.shape.area:
        return None
    shapely.prepare(room)
    for turn in turns:
        turned = moved(part.shape, (0.0, 0.0), turn)
        x0, y0, x1, y1 = turned.bounds
        left, low, right, high = room.bounds
        if x1 - x0 > right - left or y1 - y0 > high - low:
            continue
        for y in np.linspace(low - y0, high - y1, GRID).tolist():
            for x in np.linspace(left - x0, right - x1, GRID).tolist():
                placed = Placed(part, (x, y), turn)
                if room.covers(placed.shape):
                    return placed
    return None


def _carried(laid: Sequence[Placed]) -> Carry:
    def carry(host: Placed) -> list[Placed]:
        angle = np.radians(host.turn)
        turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
        made = []
        for each in laid:
            x, y = (turn @ np.array(each.at) + host.at).tolist()
            made.append(Placed(each.part, (x, y), (each.turn + host.turn) % 360))
        return made

    return carry
