"""A flat as the press has it: walls, and the bends between them."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass

import numpy as np
import shapely

from ..files.path import Array, Path, UnreadableError, chained
from ..files.reading import ending_of
from ..files.reading import read as read_file

CUT, UP, DOWN = "CUT", "BEND_UP", "BEND_DOWN"
NEAR = 0.05
"""Outlines are joined where their ends are within this, in mm."""
SPACING = 3.0
"""Walls are looked at in points so far apart, in mm."""


@dataclass(frozen=True)
class Bend:
    """``line`` (2, 2) on the flat; ``angle`` in radians, ``takes`` mm of the flat; ``walls`` to its left and right.

    ``up`` tells that both sides rise towards who looks at the flat.
    """

    number: int
    line: Array
    angle: float
    radius: float
    takes: float
    up: bool
    walls: tuple[int, int]

    @property
    def along(self) -> Array:
        way = self.line[1] - self.line[0]
        return way / np.linalg.norm(way)

    @property
    def right(self) -> Array:
        x, y = self.along
        return np.array([y, -x])


@dataclass(frozen=True)
class Flat:
    """``walls`` as polygons with ``points`` (n, 2) strewn over each, and the ``bends`` in the order of the file."""

    walls: tuple[shapely.Polygon, ...]
    points: tuple[Array, ...]
    bends: tuple[Bend, ...]

    def sides(self, bend: Bend) -> tuple[set[int], set[int]]:
        """The walls that hang on the left of a bend, and those on its right."""
        found = []
        for start in bend.walls:
            reached, waiting = {start}, [start]
            while waiting:
                here = waiting.pop()
                for other in self.bends:
                    if other is not bend and here in other.walls:
                        there = other.walls[1 - other.walls.index(here)]
                        if there not in reached:
                            reached.add(there)
                            waiting.append(there)
            found.append(reached)
        return found[0], found[1]


def read(content: bytes, name: str) -> Flat:
    """A flat from DXF or SVG. Raises UnreadableError where it has no bend lines, or is no flat."""
    if ending_of(name) not in ("dxf", "svg"):
        raise UnreadableError(
            f"{name} is no DXF or SVG, so the press does not take it; export the flat as one of these."
        )
    found, _ = read_file(content, name)
    lines = [path for path in found if path.layer.upper() in (UP, DOWN)]
    if not lines:
        raise UnreadableError(f"{name} has no bend lines (layers {UP} and {DOWN}), so there is nothing to bend.")
    for path in lines:
        lacking = [key for key in ("angle", "radius", "allowance") if key not in path.data]
        if lacking:
            raise UnreadableError(
                f"{name} has a bend line that does not say its {lacking[0]}; export the flat of a sheet part, whose "
                "bend lines do."
            )
    cut = [p for p in chained([p for p in found if p.layer.upper() == CUT], NEAR) if p.gap <= NEAR]
    if not cut:
        raise UnreadableError(f"{name} has no closed outline on layer {CUT}; export the flat again.")
    rings = sorted((shapely.make_valid(shapely.Polygon(p.points)) for p in cut), key=lambda s: -s.area)
    sheet = rings[0]
    for hole in rings[1:]:
        sheet = sheet.difference(hole) if sheet.contains(hole.representative_point()) else sheet.union(hole)
    return _parted(sheet, lines, name)


def _parted(sheet: shapely.Geometry, lines: list[Path], name: str) -> Flat:
    strips = []
    for path in lines:
        a, b = path.spans[0].start, path.spans[-1].end
        way = (b - a) / np.linalg.norm(b - a)
        half = path.data["allowance"] / 2
        wide, on = half * np.array([way[1], -way[0]]), half * way  # a round relief leaves slivers at the ends of a bend
        strips.append(shapely.Polygon([a - wide - on, b - wide + on, b + wide + on, a + wide - on]))
    left = sheet.difference(shapely.buffer(shapely.union_all(strips), 1e-6))
    walls = [wall for wall in shapely.get_parts(left) if wall.area > 1e-3]
    bends: list[Bend] = []
    for path in lines:
        bend = _bend(path, walls, len(bends) + 1)
        if bend is None:
            raise UnreadableError(f"A bend line of {name} does not lie between two walls; export the flat again.")
        twin = next((b for b in bends if set(b.walls) == set(bend.walls)), None)
        if twin is None:  # a line that is interrupted is one bend
            bends.append(bend)
    return Flat(tuple(walls), tuple(_strewn(wall) for wall in walls), tuple(bends))


def _bend(path: Path, walls: list[shapely.Polygon], number: int) -> Bend | None:
    a, b = path.spans[0].start, path.spans[-1].end
    way = (b - a) / np.linalg.norm(b - a)
    right = np.array([way[1], -way[0]])
    reach = path.data["allowance"] / 2 + 0.01
    beside = []
    for side in (-right, right):
        edge = shapely.LineString([a + side * reach + way * 1e-3, b + side * reach - way * 1e-3])
        shared = [wall.intersection(edge).length for wall in walls]
        beside.append(int(np.argmax(shared)) if max(shared, default=0.0) > 0 else -1)
    if min(beside) < 0 or beside[0] == beside[1]:
        return None
    angle = float(np.radians(path.data["angle"]))
    up = path.layer.upper() == UP
    line = np.array([a, b])
    return Bend(number, line, angle, path.data["radius"], path.data["allowance"], up, (beside[0], beside[1]))


def _strewn(wall: shapely.Polygon) -> Array:
    """Points on a wall: a grid, and its outline."""
    x0, y0, x1, y1 = wall.bounds
    grid = np.stack(np.meshgrid(np.arange(x0 + 0.5, x1, SPACING), np.arange(y0 + 0.5, y1, SPACING)), -1).reshape(-1, 2)
    inside = grid[shapely.contains_xy(wall, grid)] if len(grid) else grid
    ring = shapely.get_coordinates(shapely.segmentize(wall.exterior, SPACING))
    return np.vstack([inside, ring])


def outlines(flat: Flat, wall: int) -> list[Array]:
    """The closed outlines of a wall and its holes, points (n, 2) with no more than SPACING between them."""
    polygon = flat.walls[wall]
    rings = (polygon.exterior, *polygon.interiors)
    return [shapely.get_coordinates(shapely.segmentize(ring, SPACING)) for ring in rings]


Motion = tuple[Array, Array]
"""A turn (3, 3) and a shift (3,): x -> turn x + shift."""


def folded(flat: Flat, done: Mapping[int, float] | Collection[int], root: int) -> dict[int, Motion]:
    """Where each wall is once some bends are made, the wall ``root`` lying where it does on the flat.

    ``done`` are the numbers of the bends that are made, or how far each is, from 0 to 1.
    """
    share = done if isinstance(done, Mapping) else dict.fromkeys(done, 1.0)
    places: dict[int, Motion] = {root: (np.eye(3), np.zeros(3))}
    waiting = [root]
    while waiting:
        here = waiting.pop()
        for bend in flat.bends:
            if here not in bend.walls:
                continue
            side = bend.walls.index(here)
            there = bend.walls[1 - side]
            if there not in places:
                turn, shift = places[here]
                own_turn, own_shift = hinge(bend, share.get(bend.number, 0.0), out=1 if side == 0 else -1)
                places[there] = (turn @ own_turn, turn @ own_shift + shift)
                waiting.append(there)
    return places


def hinge(bend: Bend, share: float, out: int) -> Motion:
    """The motion of the wall at the right (``out`` = 1) or the left of a bend against the other one.

    The layer that keeps its length has the radius takes / angle; the bend begins where the other wall ends.
    """
    if share <= 0:
        return np.eye(3), np.zeros(3)
    angle = bend.angle * share
    away = np.append(bend.right * out, 0.0)
    axis = np.append(bend.along, 0.0) * out * (-1 if bend.up else 1)
    edge = np.append(bend.line[0], 0.0) - away * bend.takes / 2
    centre = edge + np.array([0, 0, (1 if bend.up else -1) * bend.takes / angle])
    turn = _turned(axis, angle)
    moved = -bend.takes * away  # back to where the bend begins, then round
    return turn, turn @ (moved - centre) + centre


def _turned(axis: Array, angle: float) -> Array:
    """The turn about an axis by an angle (Rodrigues)."""
    x, y, z = axis
    cross = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
    return np.eye(3) + np.sin(angle) * cross + (1 - np.cos(angle)) * cross @ cross
