"""Edges that a triangulation lacks, brought into it by turning the diagonals of quadrilaterals.

Sloan, A fast algorithm for generating constrained Delaunay triangulations, 1993.
"""

from __future__ import annotations

from collections import deque

import numpy as np

from .curves import Array

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
        self.points = points
        self.triangles: list[list[int]] = triangles.tolist()
        self._owners: dict[tuple[int, int], int] = {}
        for k, corners in enumerate(self.triangles):
            self._own(k, corners)
        self._fixed: set[tuple[int, int]] = set()

    def _own(self, k: int, corners: list[int]) -> None:
        a, b, c = corners
        self._owners[a, b] = self._owners[b, c] = self._owners[c, a] = k

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
        """The edges that cross the way from one point to another, each once."""
        every = np.array([edge for edge in self._owners if edge[0] < edge[1] or edge[::-1] not in self._owners])
        a, b = self.points[every[:, 0]], self.points[every[:, 1]]
        p, q = self.points[start], self.points[end]
        apart = (_turn(p, q, a) * _turn(p, q, b) < 0) & (_turn(a, b, p) * _turn(a, b, q) < 0)
        apart &= ~np.isin(every, (start, end)).any(axis=1)
        return [(i, j) for i, j in every[apart].tolist()]

    def _crosses(self, a: int, b: int, start: int, end: int) -> bool:
        if {a, b} & {start, end}:
            return False
        p, q, r, s = self.points[[a, b, start, end]]
        return bool(_turn(p, q, r) * _turn(p, q, s) < 0 and _turn(r, s, p) * _turn(r, s, q) < 0)

    def _turned(self, a: int, b: int) -> tuple[int, int] | None:
        """The other diagonal of the two triangles at an edge, which then have it; None where they are not convex."""
        one, other = self._owners.get((a, b)), self._owners.get((b, a))
        if one is None or other is None:
            return None
        c = next(v for v in self.triangles[one] if v not in (a, b))
        d = next(v for v in self.triangles[other] if v not in (a, b))
        for before, at, after in ((c, a, d), (a, d, b), (d, b, c), (b, c, a)):
            p, q, r = self.points[[before, at, after]]
            if _turn(p, q, r) <= FLAT * float(np.linalg.norm(q - p) * np.linalg.norm(r - q)):
                return None
        del self._owners[a, b], self._owners[b, a]
        self.triangles[one], self.triangles[other] = [a, d, c], [d, b, c]
        self._own(one, self.triangles[one])
        self._own(other, self.triangles[other])
        return c, d


def _turn(a: Array, b: Array, c: Array) -> Array:
    """Twice the signed areas of triangles a, b, c, each (..., 2)."""
    return (b - a)[..., 0] * (c - a)[..., 1] - (b - a)[..., 1] * (c - a)[..., 0]
