"""Edges that a triangulation lacks, brought into it by turning the diagonals of quadrilaterals.

Sloan, A fast algorithm for generating constrained Delaunay triangulations, 1993.
"""

from __future__ import annotations

import math
from collections import deque

import numpy as np

from ..geometry.curves import Array

Point = tuple[float, float]
PATIENCE = 50
"""A diagonal is looked at so many times, on the average, before an edge is given up."""
FLAT = 1e-12
"""Corners that turn by less than this part of their sides' product are straight."""


def with_edges(points: Array, triangles: np.ndarray, edges: np.ndarray) -> np.ndarray:
    """Triangles (t, 3) of points (n, 2) anticlockwise, changed so that they have the ``edges`` (k, 2).

    An edge on which another point lies, or which leaves the triangles, is left out.
    """
    if not len(edges):
        return triangles
    work = _Turning(points, triangles)
    for start, end in edges.tolist():
        work.bring_in(start, end)
    return np.array(work.triangles)


class _Turning:
    def __init__(self, points: Array, triangles: np.ndarray) -> None:
        self.points: list[Point] = [(x, y) for x, y in points.tolist()]
        self.triangles: list[list[int]] = triangles.tolist()
        self._owners: dict[tuple[int, int], int] = {}
        self._at: dict[int, int] = {}
        for k, corners in enumerate(self.triangles):
            self._own(k, corners)
        self._fixed: set[tuple[int, int]] = set()

    def _own(self, k: int, corners: list[int]) -> None:
        a, b, c = corners
        self._owners[a, b] = self._owners[b, c] = self._owners[c, a] = k
        self._at[a] = self._at[b] = self._at[c] = k

    def bring_in(self, start: int, end: int) -> None:
        """Turns diagonals that cross the edge until none is left, or gives it up."""
        waiting = deque(self._crossing(start, end))
        patience = PATIENCE * len(waiting)
        while waiting and patience > 0:
            patience -= 1
            a, b = waiting.popleft()
            turned = None if (a, b) in self._fixed else self._turned(a, b)
            if turned is None:
                waiting.append((a, b))
            elif self._crosses(*turned, start, end):
                waiting.append(turned)
        self._fixed |= {(start, end), (end, start)}

    def _crossing(self, start: int, end: int) -> list[tuple[int, int]]:
        """The edges that cross the way from one point to another, in their order, as far as the triangles go."""
        found: list[tuple[int, int]] = []
        p, q = self.points[start], self.points[end]
        side: tuple[int, int] | None = (start, start)  # twice a point that the way meets
        while side is not None and side[0] != end and len(found) <= len(self.triangles):
            a, b = side
            if a == b:
                side = self._ahead(a, end)
                continue
            found.append(side)
            beyond = self._owners.get((b, a))
            if beyond is None:
                break
            c = self._third(beyond, a, b)
            turn = _turn(p, q, self.points[c])
            side = (c, c) if c == end or turn == 0 else (a, c) if turn > 0 else (c, b)
        return found

    def _ahead(self, at: int, end: int) -> tuple[int, int] | None:
        """The side through which the way to ``end`` leaves the triangles round a point; twice a point that it meets."""
        p, q = self.points[at], self.points[end]
        around = self._around(at)
        for a, b in around:
            for c in (a, b):
                if c == end or (_turn(p, q, self.points[c]) == 0 and _forward(p, q, self.points[c])):
                    return c, c
        for a, b in around:
            if _turn(p, q, self.points[a]) < 0 < _turn(p, q, self.points[b]):
                return a, b
        return None

    def _around(self, at: int) -> list[tuple[int, int]]:
        """The sides that lie opposite a point in the triangles round it."""
        found: list[tuple[int, int]] = []
        first = k = self._at.get(at)
        while k is not None:
            a, b = self._opposite(k, at)
            found.append((a, b))
            k = self._owners.get((at, b))
            if k == first:
                return found
        k = self._owners.get((found[0][0], at)) if found else None
        while k is not None:
            a, b = self._opposite(k, at)
            found.append((a, b))
            k = self._owners.get((a, at))
        return found

    def _opposite(self, k: int, at: int) -> tuple[int, int]:
        corners = self.triangles[k]
        place = corners.index(at)
        return corners[place - 2], corners[place - 1]

    def _third(self, k: int, a: int, b: int) -> int:
        return next(v for v in self.triangles[k] if v not in (a, b))

    def _crosses(self, a: int, b: int, start: int, end: int) -> bool:
        if {a, b} & {start, end}:
            return False
        p, q, r, s = (self.points[k] for k in (a, b, start, end))
        return _turn(p, q, r) * _turn(p, q, s) < 0 and _turn(r, s, p) * _turn(r, s, q) < 0

    def _turned(self, a: int, b: int) -> tuple[int, int] | None:
        """The other diagonal of the two triangles at an edge, which then have it; None where they are not convex."""
        one, other = self._owners.get((a, b)), self._owners.get((b, a))
        if one is None or other is None:
            return None
        c, d = self._third(one, a, b), self._third(other, a, b)
        for before, at, after in ((c, a, d), (a, d, b), (d, b, c), (b, c, a)):
            p, q, r = self.points[before], self.points[at], self.points[after]
            if _turn(p, q, r) <= FLAT * math.dist(p, q) * math.dist(q, r):
                return None
        del self._owners[a, b], self._owners[b, a]
        self.triangles[one], self.triangles[other] = [a, d, c], [d, b, c]
        self._own(one, self.triangles[one])
        self._own(other, self.triangles[other])
        return c, d


def _turn(a: Point, b: Point, c: Point) -> float:
    """Twice the signed area of the triangle a, b, c."""
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])


def _forward(a: Point, b: Point, c: Point) -> bool:
    return (b[0] - a[0]) * (c[0] - a[0]) + (b[1] - a[1]) * (c[1] - a[1]) > 0
