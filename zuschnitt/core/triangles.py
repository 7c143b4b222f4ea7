"""Finding the triangle under each of many points of the plane."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.spatial import cKDTree

from .form.curves import Array
from .lazy import Lazy


def signed_double_areas(points: Array, triangles: np.ndarray) -> Array:
    """Twice the signed areas (t,) of triangles over ``points`` (n, 2)."""
    e1 = points[triangles[:, 1]] - points[triangles[:, 0]]
    e2 = points[triangles[:, 2]] - points[triangles[:, 0]]
    return e1[:, 0] * e2[:, 1] - e1[:, 1] * e2[:, 0]


@dataclass(frozen=True)
class TriangleFinder(Lazy):
    """Triangles (t, 3) over ``points`` (n, 2), asked by position."""

    points: Array
    triangles: np.ndarray

    @cached_property
    def _inverses(self) -> tuple[Array, Array]:
        """Corner (t, 2) and inverse edge matrix (t, 2, 2) of each triangle."""
        corner = self.points[self.triangles]
        edges = np.stack([corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]], axis=2)
        det = edges[:, 0, 0] * edges[:, 1, 1] - edges[:, 0, 1] * edges[:, 1, 0]
        det = np.where(np.abs(det) < 1e-300, 1e-300, det)
        adjugate = np.stack([edges[:, 1, 1], -edges[:, 0, 1], -edges[:, 1, 0], edges[:, 0, 0]], axis=1)
        return corner[:, 0], (adjugate / det[:, None]).reshape(-1, 2, 2)

    @cached_property
    def _grid(self) -> tuple[Array, float, np.ndarray, np.ndarray, np.ndarray]:
        """Low corner, cell size, cells along x and y, start of each cell's list, the lists."""
        corner = self.points[self.triangles]
        low = self.points.min(axis=0)
        extent = np.maximum(self.points.max(axis=0) - low, 1e-9)
        cell = float(np.sqrt(extent.prod() / max(len(self.triangles), 1)))
        counts = np.ceil(extent / cell).astype(int) + 1
        first = np.floor((corner.min(axis=1) - low) / cell).astype(int)
        last = np.floor((corner.max(axis=1) - low) / cell).astype(int)
        spans = last - first + 1
        each = spans.prod(axis=1)
        triangle = np.repeat(np.arange(len(each)), each)
        rank = np.arange(len(triangle)) - np.repeat(np.cumsum(each) - each, each)
        column = first[triangle, 0] + rank % spans[triangle, 0]
        row = first[triangle, 1] + rank // spans[triangle, 0]
        key = row * counts[0] + column
        order = np.argsort(key, kind="stable")
        starts = np.searchsorted(key[order], np.arange(counts.prod() + 1))
        return low, cell, counts, starts, triangle[order]

    @cached_property
    def _centres(self) -> cKDTree:
        return cKDTree(self.points[self.triangles].mean(axis=1))

    def barycentric(self, triangle: np.ndarray, points: Array) -> Array:
        """Coordinates (n, 3) of ``points`` in the given triangles."""
        corner, inverse = self._inverses
        st = np.einsum("nij,nj->ni", inverse[triangle], points - corner[triangle])
        return np.column_stack([1 - st.sum(axis=1), st])

    def find(self, points: Array) -> tuple[np.ndarray, Array, np.ndarray]:
        """Triangle (n,), barycentric coordinates (n, 3), and whether the point is inside (n,).

        A point outside all triangles gets one near it, and coordinates that continue it.
        """
        low, cell, counts, starts, lists = self._grid
        index = np.floor((points - low) / cell)
        off = ((index < 0) | (index >= counts)).any(axis=1)
        index = np.clip(index, 0, counts - 1).astype(int)
        key = index[:, 1] * counts[0] + index[:, 0]
        begin, end = starts[key], np.where(off, starts[key], starts[key + 1])
        found = np.full(len(points), -1)
        best = np.full(len(points), -1e-9)
        coordinates = np.zeros((len(points), 3))
        waiting = np.nonzero(end > begin)[0]
        step = 0
        while len(waiting):
            candidate = lists[begin[waiting] + step]
            weights = self.barycentric(candidate, points[waiting])
            least = weights.min(axis=1)
            better = least >= best[waiting]
            hit = waiting[better]
            found[hit], coordinates[hit], best[hit] = candidate[better], weights[better], least[better]
            step += 1
            waiting = waiting[(begin[waiting] + step < end[waiting]) & (best[waiting] < 1e-9)]
        inside = found >= 0
        out = np.nonzero(~inside)[0]
        if len(out):
            found[out], coordinates[out] = self._nearest(points[out])
        return found, coordinates, inside

    def _nearest(self, points: Array) -> tuple[np.ndarray, Array]:
        count = min(16, len(self.triangles))
        candidates = self._centres.query(points, k=count)[1].reshape(len(points), count)
        weights = np.stack([self.barycentric(candidates[:, k], points) for k in range(count)], axis=1)
        choice = weights.min(axis=2).argmax(axis=1)
        rows = np.arange(len(points))
        return candidates[rows, choice], weights[rows, choice]
