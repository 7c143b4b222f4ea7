"""The cells into which curves divide the plane.

Curves are split where they meet, pieces that lie on each other are taken once, and what ends in nothing is left out.
Then every cell is walked round: at each node, the next side is the one that turns most to the left (the usual walk
over a doubly connected edge list, de Berg et al., Computational Geometry, section 2.2).
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

import numpy as np
import shapely

from ..errors import Refused
from ..geometry.curves import Array, Curve, Line, parameters_of, parameters_within
from ..record import record
from .region import Region, signed_area

FLAT = 1e-5
"""Curves are flattened to this part of the whole before crossings are looked for."""
NEAR = 1e-7
"""Ends and crossings nearer to each other than this part of the whole are one node."""
MOST_MEETINGS = 5_000
"""Of a face that curves divide where they meet so often, each part is a face of its own."""
STEPS = 30
TOUCHING = 1e-6
"""Curves that meet at no more than this angle, in radians, do not cross."""
SHORT = 1 / 16
"""At a node, sides are compared at this part of the shortest one from it."""


@record
class Piece:
    """``curve`` in the plane from parameter ``start`` to ``end``. Where it lies on a ``border``, it gives way to it."""

    curve: Curve
    start: float
    end: float
    border: bool = False


@record
class Walk:
    """Along the piece of that number, from parameter ``start`` to ``end``."""

    piece: int
    start: float
    end: float


@record
class Cell:
    """``loops`` of walks round it, the outer one anticlockwise and first; ``inside`` (2,) is a point in it."""

    loops: tuple[tuple[Walk, ...], ...]
    inside: Array


@record
class _Side:
    """A part of a piece between the nodes ``first`` and ``last``, with its ``points`` (n, 2)."""

    piece: int
    start: float
    end: float
    first: int
    last: int
    points: Array

    def walked(self, way: int) -> Array:
        return self.points if way > 0 else self.points[::-1]


def cells(pieces: Sequence[Piece], scale: Array) -> tuple[Cell, ...]:
    """All bounded cells, in the order of their outer loops. ``scale`` (2,) turns the plane's units into mm."""
    arrangement = _Arrangement(pieces, np.asarray(scale, float))
    return _walked(arrangement.sides(), arrangement.scale)


class _Arrangement:
    """Pieces while they are split at each other."""

    def __init__(self, pieces: Sequence[Piece], scale: Array) -> None:
        self.pieces, self.scale = pieces, scale
        rough = np.vstack([self._at(i, np.linspace(p.start, p.end, 17)) for i, p in enumerate(pieces)])
        self.size = float(np.linalg.norm(np.ptp(rough, axis=0))) or 1.0
        self.parameters = [self._flattened(i) for i in range(len(pieces))]
        self.points = [self._at(i, t) for i, t in enumerate(self.parameters)]
        self.borders = np.array([p.border for p in pieces])
        self.straight = np.array([isinstance(p.curve, Line) for p in pieces])
        self.ends = np.array([sorted((p.start, p.end)) for p in pieces])
        lines = [p.curve if isinstance(p.curve, Line) else Line(np.zeros(2), np.ones(2)) for p in pieces]
        self.origins = np.array([line.origin for line in lines]) * self.scale
        self.ways = np.array([line.direction for line in lines]) * self.scale

    def _at(self, piece: int, t: Array) -> Array:
        return self.pieces[piece].curve.evaluate(np.asarray(t, float)) * self.scale

    def _slope(self, piece: int, t: float) -> Array:
        return self.pieces[piece].curve.derivative(np.array([t]))[0] * self.scale

    def _flattened(self, piece: int) -> Array:
        one = self.pieces[piece]
        if isinstance(one.curve, Line) or self.scale[0] == self.scale[1]:
            return parameters_of(one.curve, one.start, one.end, FLAT * self.size / self.scale[0])
        return parameters_within(lambda t: self._at(piece, t), one.start, one.end, FLAT * self.size)

    def sides(self) -> list[_Side]:
        """The parts of all pieces between the nodes, those that lie on each other once, none that ends in nothing."""
        splits = self._splits()
        found, nodes = self._between(splits)
        kept = _without_ends(found, self.borders)
        if len(kept) == len(found):
            return kept
        # what was left out splits nothing
        met: dict[int, set[int]] = defaultdict(set)
        for side in kept:
            met[side.first].add(side.piece)
            met[side.last].add(side.piece)
        used = {node for node, pieces in met.items() if len(pieces) > 1}
        fewer = [
            [t for k, t in enumerate(ts) if k in (0, len(ts) - 1) or nodes[i, t] in used] for i, ts in enumerate(splits)
        ]
        return _without_ends(self._between(fewer)[0], self.borders)

    def _between(self, splits: Sequence[Sequence[float]]) -> tuple[list[_Side], dict[tuple[int, float], int]]:
        """The parts of all pieces between the given parameters, those that lie on each other once.

        Also the node of each piece's parameters.
        """
        places = [(i, t) for i, found in enumerate(splits) for t in found]
        at = np.vstack([self._at(i, np.array(found)) for i, found in enumerate(splits)])
        node = clusters(at, NEAR * self.size)
        made: list[_Side] = []
        k = 0
        for i, found in enumerate(splits):
            own = self.parameters[i]
            for j in range(len(found) - 1):
                start, end, first, last = found[j], found[j + 1], int(node[k + j]), int(node[k + j + 1])
                points = at[k + j : k + j + 2]
                if not self.straight[i]:
                    low, high = min(start, end), max(start, end)
                    inner = self._at(i, own[(own > low) & (own < high)])
                    points = np.vstack([points[:1], inner, points[1:]])
                if first == last and np.ptp(points, axis=0).max() <= 2 * NEAR * self.size:
                    continue
                made.append(_Side(i, start, end, first, last, points))
            k += len(found)
        return self._once(made), dict(zip(places, node.tolist(), strict=True))

    def _splits(self) -> list[list[float]]:
        """The parameters of each piece at which it begins, meets others, and ends, in order."""
        found: list[list[float]] = [[p.start, p.end] for p in self.pieces]
        self.at_border: list[list[float]] = [[] for _ in self.pieces]
        lines, owner, place = [], [], []
        for i, points in enumerate(self.points):
            lines.append(np.stack([points[:-1], points[1:]], axis=1))
            owner.append(np.full(len(points) - 1, i))
            place.append(np.arange(len(points) - 1))
        spans, owners, places = shapely.linestrings(np.concatenate(lines)), np.concatenate(owner), np.concatenate(place)
        tree = shapely.STRtree(spans)
        one, other = tree.query(spans, predicate="dwithin", distance=2 * FLAT * self.size)
        apart = (owners[one] < owners[other]) & ~(self.borders[owners[one]] & self.borders[owners[other]])
        if (count := int(apart.sum())) > MOST_MEETINGS:
            raise Refused(
                f"The lines meet at about {count:,} places on one face; no more than {MOST_MEETINGS:,} can be cut into "
                "a form at once, so draw fewer that cross, or cut them in parts."
            )
        straight = self.straight[owners[one]] & self.straight[owners[other]]
        lines = apart & straight
        for i, j, t, u in self._lines_meeting(owners[one[lines]], owners[other[lines]]):
            self._met(found, i, j, t, u)
        for a, b in zip(one[apart & ~straight].tolist(), other[apart & ~straight].tolist(), strict=True):
            i, j = int(owners[a]), int(owners[b])
            met = self._meeting(i, int(places[a]), j, int(places[b]))
            if met is not None:
                self._met(found, i, j, *met)
        self._feet(found, tree, owners, places)
        return [self._ordered(i, values) for i, values in enumerate(found)]

    def _met(self, found: list[list[float]], i: int, j: int, at_i: float, at_j: float) -> None:
        """Two pieces meet at these parameters."""
        for k, t, other in ((i, at_i, j), (j, at_j, i)):
            found[k].append(t)
            if self.borders[other]:
                self.at_border[k].append(t)

    def _ordered(self, piece: int, values: list[float]) -> list[float]:
        """Without those that are one place. A piece keeps its own ends; one that ends near a border ends on it."""
        one = self.pieces[piece]
        way = 1 if one.end >= one.start else -1
        t = np.array(sorted(set(values), key=lambda value: way * value))
        at = self._at(piece, t)
        kept = list(range(len(t)))
        if np.linalg.norm(np.diff(at, axis=0), axis=1).min(initial=np.inf) <= NEAR * self.size:
            kept = [0]
            for k in range(1, len(t)):
                middle = self._at(piece, np.array([(t[kept[-1]] + t[k]) / 2]))[0]
                close = max(np.linalg.norm(at[k] - at[kept[-1]]), np.linalg.norm(middle - at[k])) <= NEAR * self.size
                if not close:
                    kept.append(k)
                elif k == len(t) - 1 and len(kept) > 1:
                    kept[-1] = k
        found = t[kept].tolist()
        if len(found) == 1:
            return [one.start, one.end]
        found[0], found[-1] = one.start, one.end
        for end in (0, -1):
            here = self._at(piece, np.array([found[end]]))
            near = [t for t in self.at_border[piece]
                    if np.linalg.norm(self._at(piece, np.array([t])) - here) <= NEAR * self.size]  # fmt: skip
            if near:
                found[end] = near[0]
        return found

    def _lines_meeting(self, ones: np.ndarray, others: np.ndarray) -> list[tuple[int, int, float, float]]:
        """Where straight pieces cross, pair by pair: both pieces, and the parameter on each."""
        d, e = self.ways[ones], self.ways[others]
        cross = d[:, 0] * e[:, 1] - d[:, 1] * e[:, 0]
        crosses = np.abs(cross) > TOUCHING * np.linalg.norm(d, axis=1) * np.linalg.norm(e, axis=1)
        ones, others, d, e, cross = ones[crosses], others[crosses], d[crosses], e[crosses], cross[crosses]
        t, u = np.zeros(len(ones)), np.zeros(len(ones))
        for _ in range(3):  # the first gives it, the others what rounding left of it
            gap = self._on_lines(others, u) - self._on_lines(ones, t)
            t = t + (gap[:, 0] * e[:, 1] - gap[:, 1] * e[:, 0]) / cross
            u = u + (gap[:, 0] * d[:, 1] - gap[:, 1] * d[:, 0]) / cross
            t, u = np.clip(t, *self.ends[ones].T), np.clip(u, *self.ends[others].T)
        met = np.linalg.norm(self._on_lines(others, u) - self._on_lines(ones, t), axis=1) <= NEAR * self.size / 4
        return list(zip(*(each[met].tolist() for each in (ones, others, t, u)), strict=True))

    def _on_lines(self, pieces: np.ndarray, t: Array) -> Array:
        """Points (n, 2) of straight pieces (n,), at a parameter (n,) each."""
        return self.origins[pieces] + t[:, None] * self.ways[pieces]

    def _meeting(self, i: int, a: int, j: int, b: int) -> tuple[float, float] | None:
        """Where two spans of pieces cross, by Newton's method from their chords."""
        t, s = self.parameters[i][a : a + 2], self.parameters[j][b : b + 2]
        p, q = self.points[i][a : a + 2], self.points[j][b : b + 2]
        matrix = np.stack([p[1] - p[0], q[0] - q[1]], axis=1)
        if abs(np.linalg.det(matrix)) <= 1e-12 * np.prod(np.linalg.norm(matrix, axis=0)):
            return None
        part = np.linalg.solve(matrix, q[0] - p[0])
        if (part < -0.5).any() or (part > 1.5).any():
            return None
        at = np.array([t[0], s[0]]) + part * [t[1] - t[0], s[1] - s[0]]
        ends = [sorted((self.pieces[k].start, self.pieces[k].end)) for k in (i, j)]
        low, high = np.array(ends).T
        for _ in range(STEPS):
            at = np.clip(at, low, high)
            gap = self._at(i, at[:1])[0] - self._at(j, at[1:])[0]
            matrix = np.stack([self._slope(i, at[0]), -self._slope(j, at[1])], axis=1)
            size = np.linalg.norm(matrix, axis=0)
            if abs(np.linalg.det(matrix)) <= TOUCHING * size.prod():
                return None  # they touch, or lie on each other: neither divides anything
            step = np.linalg.solve(matrix, -gap)
            at = at + step
            if (np.abs(step) <= 1e-15 * np.maximum(np.abs(at), 1)).all():
                break
        at = np.clip(at, low, high)
        gap = np.linalg.norm(self._at(i, at[:1])[0] - self._at(j, at[1:])[0])
        return (float(at[0]), float(at[1])) if gap <= NEAR * self.size / 4 else None

    def _feet(self, found: list[list[float]], tree: shapely.STRtree, owners: np.ndarray, places: np.ndarray) -> None:
        """Where a piece ends on another one."""
        ends = np.vstack([self.points[i][[0, -1]] for i in range(len(self.pieces))])
        of = np.repeat(np.arange(len(self.pieces)), 2)
        which, span = tree.query(shapely.points(ends), predicate="dwithin", distance=2 * FLAT * self.size)
        here, there = of[which], owners[span]
        apart = (here != there) & ~(self.borders[here] & self.borders[there])
        lines = apart & self.straight[there]
        at = self._feet_on_lines(there[lines], ends[which[lines]])
        for j, t in zip(there[lines].tolist(), at.tolist(), strict=True):
            if not np.isnan(t):
                found[j].append(t)
        curved = apart & ~self.straight[there]
        for e, k in zip(which[curved].tolist(), span[curved].tolist(), strict=True):
            j = int(owners[k])
            foot = self._foot(j, int(places[k]), ends[e])
            if foot is not None:
                found[j].append(foot)

    def _feet_on_lines(self, pieces: np.ndarray, points: Array) -> Array:
        """The parameters (n,) at which straight pieces (n,) pass through points (n, 2); NaN where they do not."""
        ways = self.ways[pieces]
        size = np.maximum((ways**2).sum(axis=1), 1e-300)
        t = np.zeros(len(pieces))
        for _ in range(2):
            t = t + ((points - self._on_lines(pieces, t)) * ways).sum(axis=1) / size
            t = np.clip(t, *self.ends[pieces].T)
        off = np.linalg.norm(self._on_lines(pieces, t) - points, axis=1)
        return np.where(off <= NEAR * self.size, t, np.nan)

    def _foot(self, piece: int, span: int, point: Array) -> float | None:
        """The parameter at which a piece passes through a point; None where it does not."""
        t, p = self.parameters[piece][span : span + 2], self.points[piece][span : span + 2]
        chord = p[1] - p[0]
        at = float(t[0] + (t[1] - t[0]) * ((point - p[0]) @ chord) / max(float(chord @ chord), 1e-300))
        one = self.pieces[piece]
        low, high = sorted((one.start, one.end))
        for _ in range(STEPS):
            at = min(max(at, low), high)
            slope = self._slope(piece, at)
            step = float((point - self._at(piece, np.array([at]))[0]) @ slope) / max(float(slope @ slope), 1e-300)
            at += step
            if abs(step) <= 1e-15 * max(abs(at), 1):
                break
        at = min(max(at, low), high)
        near = np.linalg.norm(self._at(piece, np.array([at]))[0] - point) <= NEAR * self.size
        return at if near else None

    def _once(self, sides: list[_Side]) -> list[_Side]:
        """Without those that lie on another one: borders first."""
        between: dict[tuple[int, int], list[_Side]] = defaultdict(list)
        kept = []
        for side in sorted(sides, key=lambda side: not self.borders[side.piece]):
            low, high = sorted((side.first, side.last))
            twins = between[low, high]
            if twins:
                middle = self._at(side.piece, np.array([(side.start + side.end) / 2]))[0]
                point = shapely.Point(middle)
                if any(
                    shapely.LineString(other.points).distance(point) <= 4 * FLAT * self.size
                    and self._lies_on(other, middle)
                    for other in twins
                ):
                    continue
            twins.append(side)
            kept.append(side)
        return sorted(kept, key=lambda side: (side.piece, side.start))

    def _lies_on(self, side: _Side, point: Array) -> bool:
        spans = np.linalg.norm(side.points - point, axis=1)
        nearest = int(spans.argmin())
        own = self.parameters[side.piece]
        t = np.linspace(side.start, side.end, len(side.points))[nearest]
        span = int(np.clip(np.searchsorted(np.sort(own), t) - 1, 0, len(own) - 2))
        candidates = {max(span - 1, 0), span, min(span + 1, len(own) - 2)}
        if own[0] > own[-1]:
            candidates = {len(own) - 2 - k for k in candidates}
        return any(self._foot(side.piece, k, point) is not None for k in candidates)


def clusters(points: Array, reach: float) -> np.ndarray:
    """The number of the node (n,) that each of the points (n, d) is: those within ``reach`` are one."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components
    from scipy.spatial import cKDTree

    pairs = cKDTree(points).query_pairs(reach, output_type="ndarray")
    graph = coo_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(points),) * 2)
    return connected_components(graph, directed=False)[1]


def _without_ends(sides: list[_Side], borders: np.ndarray) -> list[_Side]:
    """Without sides that end in nothing, one after the other."""
    while True:
        degree: dict[int, int] = defaultdict(int)
        for side in sides:
            degree[side.first] += 1
            degree[side.last] += 1
        kept = [s for s in sides if borders[s.piece] or (degree[s.first] > 1 and degree[s.last] > 1)]
        if len(kept) == len(sides):
            return sides
        sides = kept


def _walked(sides: Sequence[_Side], scale: Array) -> tuple[Cell, ...]:
    leaving: dict[int, list[tuple[int, int]]] = defaultdict(list)
    for k, side in enumerate(sides):
        leaving[side.first].append((k, 1))
        leaving[side.last].append((k, -1))
    after: dict[tuple[int, int], tuple[int, int]] = {}
    for half in leaving.values():
        ordered = _round_a_node(sides, half)
        for here, clockwise in zip(ordered, (ordered[-1], *ordered[:-1]), strict=True):
            after[here[0], -here[1]] = clockwise  # one that comes in goes on along the next one clockwise
    loops: list[list[tuple[int, int]]] = []
    waiting = set(after)
    for start in sorted(after, key=lambda half: (half[0], -half[1])):
        if start not in waiting:
            continue
        loop, at = [], start
        while at in waiting:
            waiting.remove(at)
            loop.append(at)
            at = after[at]
        loops.append(loop)
    return _nested(sides, loops, scale)


def _round_a_node(sides: Sequence[_Side], half: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Half sides that leave a node, anticlockwise."""
    if len(half) < 2:
        return half
    walked = [sides[k].walked(way) for k, way in half]
    away = [np.linalg.norm(points - points[0], axis=1) for points in walked]
    radius = SHORT * min(float(distance.max()) for distance in away)
    angles = []
    for points, distance in zip(walked, away, strict=True):
        out = int(np.argmax(distance >= radius))
        part = (radius - distance[out - 1]) / (distance[out] - distance[out - 1])
        x, y = points[out - 1] + part * (points[out] - points[out - 1]) - points[0]
        angles.append(float(np.arctan2(y, x)))
    return [half[k] for k in np.argsort(angles, kind="stable")]


def _nested(sides: Sequence[_Side], loops: list[list[tuple[int, int]]], scale: Array) -> tuple[Cell, ...]:
    """The cells: every anticlockwise loop, with the clockwise ones that lie in it as holes."""
    rings = [np.vstack([sides[k].walked(way)[:-1] for k, way in loop]) for loop in loops]
    areas = [signed_area(ring) for ring in rings]
    outer = [k for k, a in enumerate(areas) if a > 0]
    shapes = {
        k: shapely.make_valid(shapely.Polygon(rings[k])) if len(rings[k]) > 2 else shapely.Polygon() for k in outer
    }
    for shape in shapes.values():
        shapely.prepare(shape)
    part_of = _components(sides, loops)
    holes: dict[int, list[int]] = defaultdict(list)
    for k, a in enumerate(areas):
        if a > 0:
            continue
        at = shapely.Point(rings[k][0])
        around = [o for o in outer if part_of[o] != part_of[k] and shapes[o].contains(at)]
        if around:
            holes[min(around, key=lambda o: areas[o])].append(k)
    made = []
    for k in outer:
        inner = [rings[h] for h in holes[k]]
        within = Region((rings[k], *inner)).shape
        if within.is_empty:
            continue
        point = within.representative_point()
        walks = tuple(tuple(_walk(sides[s], way) for s, way in loops[n]) for n in (k, *holes[k]))
        made.append(Cell(walks, np.array([point.x, point.y]) / scale))
    return tuple(made)


def _walk(side: _Side, way: int) -> Walk:
    return Walk(side.piece, side.start, side.end) if way > 0 else Walk(side.piece, side.end, side.start)


def _components(sides: Sequence[_Side], loops: list[list[tuple[int, int]]]) -> list[int]:
    """Which loops hang together: the number of each one's component."""
    root: dict[int, int] = {}

    def find(node: int) -> int:
        root.setdefault(node, node)
        while root[node] != node:
            root[node] = root[root[node]]
            node = root[node]
        return node

    for side in sides:
        root[find(side.first)] = find(side.last)
    return [find(sides[loop[0][0]].first) for loop in loops]
