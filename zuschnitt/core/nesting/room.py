"""Parts laid by trying places: in the holes of larger parts, and in what is free of a sheet beside other parts."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
import shapely

from .part import Part, Placed, moved
from .sheet import Box, Nest

GRID = 12
"""A part is tried at so many places across and up what is free."""
TRIED = (0.0, 90.0, 180.0, 270.0)
"""The turns that are tried where all are allowed, in degrees."""
MOST_TRIED = 60
"""So many outlines are tried beside the others, the largest first."""
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
                room = shapely.buffer(hole, -gap) if gap > 0 else hole
                placed = _in_room(small, _less(room, laid, gap), turns or TRIED)
                if placed is not None:
                    laid.append(placed)
                    left = [other for other in left if other is not small]
        if laid:
            inside[id(part)] = _carried(laid)
    return inside, left


def widest(sheet: Box, fixed: Sequence[Placed], gap: float) -> Box:
    """The largest of the strips on the left, right, below and above of what is fixed."""
    bounds = np.array([placed.shape.bounds for placed in fixed])
    left, low = bounds[:, :2].min(axis=0) - gap
    right, high = bounds[:, 2:].max(axis=0) + gap
    x0, y0, x1, y1 = sheet
    strips = [
        (max(x0, float(right)), y0, x1, y1),
        (x0, y0, min(x1, float(left)), y1),
        (x0, max(y0, float(high)), x1, y1),
        (x0, y0, x1, min(y1, float(low))),
    ]
    return max(strips, key=lambda box: max(0.0, box[2] - box[0]) * max(0.0, box[3] - box[1]))


def beside(parts: Sequence[Part], placed: Sequence[Placed], sheet: Box, how: Nest) -> list[Placed]:
    """Where more parts lie on a sheet, each in the first place that is found for it, the largest first."""
    room = _less(shapely.box(*sheet), placed, how.gap)
    found: list[Placed] = []
    failed: set[int] = set()
    for part in sorted(parts, key=lambda part: -part.shape.area):
        if id(part.outer) in failed or len(failed) >= MOST_TRIED:
            continue
        here = _in_room(part, room, how.turns or TRIED)
        if here is None:
            failed.add(id(part.outer))  # what is free only becomes less
            continue
        found.append(here)
        room = _less(room, [here], how.gap)
    return found


def _less(room: shapely.Geometry, placed: Sequence[Placed], gap: float) -> shapely.Geometry:
    """What is left of ``room`` at the distance ``gap`` from what is placed."""
    if not placed:
        return room
    return shapely.difference(room, shapely.union_all([shapely.buffer(each.shape, gap) for each in placed]))


def _in_room(part: Part, room: shapely.Geometry, turns: Sequence[float]) -> Placed | None:
    """The first place within ``room`` that is found, from the left."""
    pieces = [piece for piece in shapely.get_parts(room) if piece.area >= part.shape.area]
    for piece in sorted(pieces, key=lambda piece: piece.area):
        shapely.prepare(piece)
        for turn in turns:
            placed = _in_piece(part, piece, turn)
            if placed is not None:
                return placed
    return None


def _in_piece(part: Part, room: shapely.Polygon, turn: float) -> Placed | None:
    turned = moved(part.shape, (0.0, 0.0), turn)
    x0, y0, x1, y1 = turned.bounds
    left, low, right, high = room.bounds
    if x1 - x0 > right - left or y1 - y0 > high - low:
        return None
    x, y = np.meshgrid(np.linspace(left - x0, right - x1, GRID), np.linspace(low - y0, high - y1, GRID), indexing="ij")
    places = np.column_stack([x.ravel(), y.ravel()])
    corners = shapely.get_coordinates(turned)
    all_corners = places[:, None] + corners
    whole = shapely.intersects_xy(room, all_corners[..., 0], all_corners[..., 1]).all(axis=1)
    for at in places[whole].tolist():
        placed = Placed(part, (at[0], at[1]), turn)
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
