"""The walls beside a cone that is made in steps: grown to the ridge where they meet the first flat, or cut off there.

A wall touches the cone along a ruling and runs on from there to the first corner of the flats. All planes pass through
the apex, so what it grows by is a wedge, and the bend at the ridge leans against the wall's end.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np

from ..errors import CannotBeDone
from ..geometry.curves import Array
from ..record import record
from .bending import FLARE, LEAST
from .part import Joint, SheetPart, Zone
from .ridges import RidgeLine
from .zones import Loop, Step, area, backwards, carved, mapped_loops, polygon

ON = 1e-7
"""What is no further from a line than this, in mm, lies on it."""
FAR = 10.0
"""What is cut off reaches so much further than all it is cut off from, in mm."""


@record
class Plane:
    """A wall's plane seen with the apex at the origin, the ruling along y and x round the axis.

    Points go there by ``turn`` (2, 2) and ``shift`` (2,).
    """

    turn: Array
    shift: Array

    @staticmethod
    def at(line: tuple[Array, Array], y: float, side: int) -> Plane:
        """Of a wall before the flats (``side`` 0) or behind them (1), whose ``line`` has its point at that ``y``."""
        point, along = line
        up = along if side == 0 else -along
        turn = np.array([[up[1], -up[0]], up])
        return Plane(turn, np.array([0.0, y]) - turn @ point)

    def seen(self, loops: Sequence[Loop]) -> tuple[Loop, ...]:
        return mapped_loops(loops, self.turn, self.shift)

    def back(self, loops: Sequence[Loop]) -> tuple[Loop, ...]:
        return mapped_loops(loops, self.turn.T, -self.turn.T @ self.shift)


@record
class WallBeside:
    """A wall at the joint ``number`` as it is beside flats: its ``zone`` ends where the bend begins.

    ``strip`` is what of it the bend takes, as seen from the ridge; ``spans`` (n, 2) is where along the ridge it ends
    at the bend, ``ruling`` (2,) from where to where along the ruling the cone ran on into it; ``way`` is -1 where the
    wall lies before the ridge, else 1.
    """

    number: int
    place: int
    zone: Zone
    plane: Plane
    line: RidgeLine
    way: float
    deep: float
    strip: tuple[Loop, ...]
    spans: Array
    ruling: tuple[float, float]

    def joint(self, bend: int, x: float) -> Joint:
        """With its bend, by the place of that, at ``x`` there."""
        way = self.way
        along = -way * self.line.up
        point = way * self.deep * self.line.across
        mine = (self.plane.turn.T @ (point - self.plane.shift), self.plane.turn.T @ along)
        return Joint((self.place, bend), np.array([mine[0], [x, 0.0]]), np.array([mine[1], [0.0, way]]))


def wall_beside(
    part: SheetPart, number: int, at: int, plane: Plane, line: RidgeLine, side: int, deep: float, wedge: Sequence[Loop]
) -> WallBeside:
    """A wall ended ``deep`` mm before a ridge, grown by what it needs of the ``wedge`` between it and the ridge.

    Raises CannotBeDone where nothing of it is left.
    """
    zone = part.zones[at]
    way = -1.0 if side == 0 else 1.0
    marked = plane.seen(zone.loops)
    own = [step for loop in marked for step in loop if step.joint == number]
    low, high = (f(y for s in own for y in (s.first[1], s.last[1])) for f in (min, max))
    own_loops = tuple(tuple(replace(s, joint=None) if s.joint == number else s for s in loop) for loop in marked)

    taken = _strip(Zone(marked), number, (low, high), line, way, deep)
    strip = _inside(own_loops, taken) if taken is not None else ()
    grown = _between(wedge, low, high)
    x = way * deep
    left = carved(grown, [_half_plane(line, x, way, grown)]) if grown else []
    added = [_marked(loop, line, x, number) for each in left for loop in each]
    cutters = [*([_marked(taken, line, x, number)] if taken is not None else ()), *_holes(added)]
    ends_there = not cutters and not added
    parts = carved(marked if ends_there else own_loops, cutters, [loop for loop in added if area([loop]) > 0])
    if not parts:
        raise CannotBeDone(
            "A wall beside a cone is narrower than the bend between them takes; take a smaller radius.",
            faces=zone.faces,
        )
    loops = tuple(loop for each in parts for loop in each)
    ends = [sorted((float(s.first @ line.up), float(s.last @ line.up))) for s in _at(loops, number)]
    return WallBeside(
        number, at, replace(zone, loops=plane.back(loops)), plane, line, way, deep, line.seen(strip),
        np.array(sorted(ends)).reshape(-1, 2), (low, high),
    )  # fmt: skip


def require_apart(walls: Sequence[WallBeside]) -> None:
    """Raises CannotBeDone where walls at one end of a cone lie between each other's ends."""
    for one, other in pairwise(sorted(walls, key=lambda wall: wall.ruling)):
        if one.ruling[1] > other.ruling[0] + LEAST:
            raise CannotBeDone(
                "Walls at one end of a cone lie between each other there, so that it cannot be made in steps; leave "
                "one of them out.",
                faces=(*one.zone.faces, *other.zone.faces),
            )


def up_to_walls(near: tuple[Loop, ...], walls: Sequence[WallBeside]) -> tuple[Loop, ...]:
    """What lies about the ridge beside walls, up to where the bend ends in them, with their joints there."""
    x = walls[0].way * walls[0].deep
    strips = [loop for wall in walls for loop in wall.strip]
    ridge = RidgeLine(np.zeros(2), np.array([0.0, 1.0]))
    cutters = [_half_plane(ridge, x, -walls[0].way, (*near, *strips)), *_holes(strips)]
    parts = carved(near, cutters, [loop for loop in strips if area([loop]) > 0])
    loops = [loop for part in parts for loop in part]
    spans = [(float(low), float(high), wall.number) for wall in walls for low, high in wall.spans]
    return tuple(tuple(p for s in loop for p in _split(s, x, spans)) for loop in loops)


# --- parts of it --------------------------------------------------------------------------------------


def _strip(
    wall: Zone, number: int, ruling: tuple[float, float], line: RidgeLine, way: float, deep: float
) -> Loop | None:
    """Between the ruling and where the bend ends in the wall, widened with the wall's sides; None if it does not."""
    corners = []
    for end, upwards in zip(ruling, (-1.0, 1.0), strict=True):
        corner = np.array([0.0, end])
        along = np.array([way, upwards * _flare(wall, number, corner, way, upwards)])
        left = deep - way * float(corner @ line.across)
        inner = corner + left / (way * float(along @ line.across)) * along if left > ON else None
        corners.append((corner, inner))
    (low, low_inner), (high, high_inner) = corners
    if low_inner is None and high_inner is None:
        return None
    crossing = np.array([0.0, way * deep / line.across[1]]) if low_inner is None or high_inner is None else None
    if low_inner is None:
        assert crossing is not None and high_inner is not None
        return polygon([crossing, high, high_inner])
    if high_inner is None:
        assert crossing is not None
        return polygon([low, crossing, low_inner])
    return polygon([low, high, high_inner, low_inner])


def _flare(wall: Zone, number: int, corner: Array, way: float, upwards: float) -> float:
    """How far the side of a wall that begins at a corner leads outwards for each mm into the wall."""
    for step in wall.steps:
        if step.joint == number or not step.straight:
            continue
        for here, there in ((step.first, step.last), (step.last, step.first)):
            if np.abs(here - corner).max() < LEAST:
                inwards, outwards = (there[0] - here[0]) * way, (there[1] - here[1]) * upwards
                if inwards > LEAST and outwards > 0:
                    return float(min(outwards / inwards, FLARE))
    return 0.0


def _between(wedge: Sequence[Loop], low: float, high: float) -> tuple[Loop, ...]:
    """What of a wedge belongs to a wall from ``low`` to ``high`` on the ruling.

    That is all of it but for what lies beyond other places where the cone ends at the ruling.
    """
    steps = [s for loop in wedge for s in loop if s.straight and max(abs(s.first[0]), abs(s.last[0])) < ON]
    on = [y for s in steps for y in (s.first[1], s.last[1])]
    if not on:
        return ()
    cutters = []
    for end, limit, up in ((low, min(on), 1.0), (high, max(on), -1.0)):
        if abs(end - limit) > LEAST:
            level = RidgeLine(np.array([0.0, end]), np.array([up, 0.0]))
            cutters.append(_half_plane(level, 0.0, -1.0, wedge))
    return tuple(loop for each in carved(tuple(wedge), cutters) for loop in each)


def _half_plane(line: RidgeLine, x: float, way: float, loops: Sequence[Loop]) -> Loop:
    """All that lies beyond ``x`` across a line on the side away from ``way``, as far as loops reach."""
    points = np.vstack([s.points() for loop in line.seen(loops) for s in loop])
    low, high = points.min(axis=0) - FAR, points.max(axis=0) + FAR
    far = min(low[0], x - FAR) if way > 0 else max(high[0], x + FAR)
    corners = [(x, low[1]), (far, low[1]), (far, high[1]), (x, high[1])]
    turn = np.stack([line.across, line.up])
    return polygon([line.origin + np.array(c) @ turn for c in corners])


def _marked(loop: Loop, line: RidgeLine, x: float, joint: int) -> Loop:
    """With a joint at the straight steps that lie at ``x`` across a line."""
    return tuple(
        replace(s, joint=joint)
        if s.straight and max(abs(float((p - line.origin) @ line.across) - x) for p in (s.first, s.last)) < ON
        else s
        for s in loop
    )


def _inside(loops: tuple[Loop, ...], window: Loop) -> tuple[Loop, ...]:
    """What of a region lies inside a convex polygon."""
    cutters = []
    for step in window:
        up = (step.last - step.first) / step.length
        cutters.append(_half_plane(RidgeLine(step.first, up), 0.0, -1.0, (*loops, window)))
    return tuple(loop for each in carved(loops, cutters) for loop in each)


def _holes(loops: Sequence[Loop]) -> list[Loop]:
    """Those that run clockwise, the other way round."""
    return [backwards(loop) for loop in loops if area([loop]) < 0]


def _at(loops: Sequence[Loop], number: int) -> list[Step]:
    return [step for loop in loops for step in loop if step.joint == number]


def _split(step: Step, x: float, spans: Sequence[tuple[float, float, int]]) -> list[Step]:
    """A step in pieces: those along the line at ``x`` that lie in one of the spans along it have that one's joint."""
    if not step.straight or max(abs(step.first[0] - x), abs(step.last[0] - x)) > ON:
        return [step]
    first, last = float(step.first[1]), float(step.last[1])
    low, high = min(first, last), max(first, last)
    inner = {end for a, b, _ in spans for end in (a, b) if low + LEAST < end < high - LEAST}
    made = []
    for a, b in pairwise([first, *sorted(inner, reverse=first > last), last]):
        number = next((n for p, q, n in spans if p - LEAST < (a + b) / 2 < q + LEAST), None)
        made.append(Step.between(np.array([x, a]), np.array([x, b]), number, step.edge))
    return made
