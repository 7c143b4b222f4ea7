"""Slots where two plates cross: how wide, how deep, and what they take away of each plate."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from ..geometry.curves import Array
from ..record import record
from .outlines import PlateFrame

BEYOND = 1.0
"""A slot runs out of the plate by so many of its widths, at the most."""
ROUND = 32
"""A relieved corner is flattened to so many chords for each quarter."""
CORNERS = ("none", "bone", "tee")
Run = tuple[float, float]
"""From where to where a plate is there on the line of a crossing, in mm from its foot."""


@record
class Slot:
    """``at`` (2,) is the middle of its inner end on the plate; it ``opens`` up or down and is ``depth`` deep.

    ``way`` (2,) is what is up on the plate along the crossing.
    """

    other: str
    at: Array
    width: float
    depth: float
    opens: str
    way: Array


@record
class Tool:
    """The round tool that cuts: corners are ``relieved`` (none, bone or tee) for its ``diameter``, in mm."""

    relieved: str = "none"
    diameter: float = 3.0


PLAIN = Tool()


def slot_width(thickness: float, fit: float, first: Array, second: Array) -> float:
    """How wide a slot is for a plate that stands at an angle: wide enough for both of its faces' corners."""
    cosine = abs(float(first @ second))
    return thickness * (1 + cosine) / float(np.sqrt(1 - cosine**2)) + fit


@record
class Crossing:
    """The line in which two plates cross: through ``foot`` (3,) along the unit vector ``way`` (3,)."""

    foot: Array
    way: Array

    @staticmethod
    def of(one: PlateFrame, two: PlateFrame) -> Crossing | None:
        """None where both stand the same way. The way points to where the first plate's slide points."""
        way = np.cross(one.normal, two.normal)
        size = float(np.linalg.norm(way))
        if size < 1e-9:
            return None
        way = way / size
        way = way if way @ one.slides >= 0 else -way
        return Crossing(np.linalg.solve(np.array([one.normal, two.normal, way]), np.array([one.at, two.at, 0.0])), way)

    def on(self, frame: PlateFrame) -> tuple[Array, Array]:
        """The foot (2,) and the way (2,) in a plate's own plane."""
        return frame.flat(self.foot[None])[0], np.array([self.way @ frame.along, self.way @ frame.up])

    def spans(self, area: shapely.Geometry, frame: PlateFrame) -> list[Run]:
        """From where to where (mm from the foot) the line runs in a plate."""
        return spans_of([self], area, frame)[0]

    @staticmethod
    def shared(one: Sequence[Run], two: Sequence[Run]) -> list[Run]:
        """From where to where both of two plates are there, whose spans these are."""
        found = []
        for low, high in one:
            for under, over in two:
                begin, end = max(low, under), min(high, over)
                if end - begin > 1e-6:
                    found.append((begin, end))
        return found


def spans_of(
    crossings: Sequence[Crossing], area: shapely.Geometry, frame: PlateFrame, off: Array | float = 0.0
) -> list[list[Run]]:
    """For each of several lines in a plate's plane, from where to where (mm from its foot) it runs in the plate.

    The lines (n,) are looked at ``off`` (n,) mm to the side.
    """
    found: list[list[Run]] = [[] for _ in crossings]
    if area.is_empty or not crossings:
        return found
    feet = frame.flat(np.array([each.foot for each in crossings]))
    ways = frame.flat(np.array([each.way for each in crossings]))
    feet = feet + np.reshape(off, (-1, 1)) * np.stack([ways[:, 1], -ways[:, 0]], axis=1)
    x0, y0, x1, y1 = area.bounds
    corners = np.array([(x0, y0), (x1, y0), (x1, y1), (x0, y1)])
    reach = np.einsum("ncd,nd->nc", corners - feet[:, None], ways)
    ends = np.stack([reach.min(axis=1) - 1, reach.max(axis=1) + 1], axis=1)
    lines = shapely.linestrings(feet[:, None] + ends[..., None] * ways[:, None])
    parts, owner = shapely.get_parts(shapely.intersection(area, lines), return_index=True)
    for part, k in zip(parts, owner.tolist(), strict=True):
        s = (shapely.get_coordinates(part) - feet[k]) @ ways[k]
        if len(s) > 1 and np.ptp(s) > 0:
            found[k].append((float(s.min()), float(s.max())))
    return [sorted(each) for each in found]


def slot_end(levels: Sequence[Run], beside: Sequence[Run], span: Run, width: float, opens: str) -> float:
    """How far a slot runs from a crossing ``span`` out of a plate that is there at ``levels``, and ``beside`` the line.

    It does not run into what lies beyond a gap.
    """
    low, high = span
    there = [run for run in beside if run[0] < high and run[1] > low]
    if opens == "up":
        gap = min((begin - high for begin, _ in levels if begin > high), default=np.inf)
        return min(max(high, *(end for _, end in there)) + BEYOND * width, high + gap / 2)
    gap = min((low - end for _, end in levels if end < low), default=np.inf)
    return max(min(low, *(begin for begin, _ in there)) - BEYOND * width, low - gap / 2)


def taken_away(
    crossing: Crossing,
    frame: PlateFrame,
    middle: float,
    end: float,
    width: float,
    tool: Tool,
) -> shapely.Geometry:
    """What a slot takes away: from the ``middle`` of a crossing to its ``end`` outside of the plate."""
    foot, way = crossing.on(frame)
    side = np.array([way[1], -way[0]])
    corners = [(middle, -1), (middle, 1), (end, 1), (end, -1)]
    box = shapely.Polygon([foot + s * way + k * width / 2 * side for s, k in corners])
    if tool.relieved == "none":
        return box
    radius, onwards = tool.diameter / 2, 1.0 if end > middle else -1.0
    rounds = []
    for k in (-1, 1):
        corner = foot + middle * way + k * width / 2 * side
        if tool.relieved == "bone":  # on the diagonal, so that its edge runs through the corner
            centre = corner + radius / np.sqrt(2) * (onwards * way - k * side)
        else:  # on the side, so that it touches the end
            centre = corner + radius * onwards * way
        rounds.append(shapely.Point(centre).buffer(radius, ROUND))
    return shapely.union_all(np.array([box, *rounds]))
