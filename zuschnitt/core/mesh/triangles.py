"""Areas, normals and outlines of triangles, and the triangle under each of many points of the plane."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from ..geometry.curves import Array
from ..lazy import Lazy
from ..record import record

if TYPE_CHECKING:
    from scipy.spatial import cKDTree

GUESSES = 14
"""Cells of the raster of guesses for each triangle."""
MOST_GUESSES = 400_000
STEPS = 12
"""How far a walk goes before a point is searched for."""


def signed_double_areas(points: Array, triangles: np.ndarray) -> Array:
    """Twice the signed areas (t,) of triangles over ``points`` (n, 2)."""
    x, y = points.T[:2].take(triangles.T, axis=1)  # taken in one piece for each coordinate: several times as fast
    return (x[1] - x[0]) * (y[2] - y[0]) - (y[1] - y[0]) * (x[2] - x[0])


def normals_at_points(points: Array, triangles: np.ndarray) -> Array:
    """Unit normals (n, 3) at ``points`` (n, 3): those of the triangles round each, by their areas."""
    a, b, c = (points[triangles[:, k]] for k in range(3))
    spanned = np.cross(b - a, c - a)
    around = triangles.T.ravel()
    summed = np.stack([np.bincount(around, np.tile(each, 3), len(points)) for each in spanned.T], axis=1)
    return summed / np.maximum(np.linalg.norm(summed, axis=1, keepdims=True), 1e-300)


def boundary_rings(triangles: np.ndarray) -> list[np.ndarray]:
    """Rings of point numbers round the triangles, each anticlockwise about the material."""
    edges = np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]])
    one, other = edges.T
    keys = np.minimum(one, other).astype(np.int64) * (int(triangles.max()) + 1) + np.maximum(one, other)
    order = np.argsort(keys)
    differs = np.r_[True, np.diff(keys[order]) > 0, True]
    outer = edges[order[differs[1:] & differs[:-1]]]
    after: dict[int, list[int]] = {}
    for a, b in outer.tolist():
        after.setdefault(a, []).append(b)
    rings = []
    while after:
        start = next(iter(after))
        ring, here = [], start
        while here in after:
            ring.append(here)
            following = after[here]
            here = following.pop()
            if not following:
                del after[ring[-1]]
        rings.append(np.array(ring))
    return rings


def least_of(weights: Array) -> Array:
    """The least of three coordinates (n, 3); much quicker than a minimum along so short an axis."""
    return np.minimum(np.minimum(weights[:, 0], weights[:, 1]), weights[:, 2])


@record
class TriangleFinder(Lazy):
    """Triangles (t, 3) over ``points`` (n, 2), asked by position."""

    points: Array
    triangles: np.ndarray

    @cached_property
    def _coefficients(self) -> Array:
        """For each triangle (t, 6): the second and third barycentric coordinate as a + b x + c y."""
        corner = self.points[self.triangles]
        (ax, ay), (bx, by), (cx, cy) = np.moveaxis(corner, 0, 2)
        det = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay)
        det = np.where(np.abs(det) < 1e-300, 1e-300, det)
        second = np.stack([cx * ay - ax * cy, cy - ay, ax - cx], axis=1) / det[:, None]
        third = np.stack([ax * by - bx * ay, ay - by, bx - ax], axis=1) / det[:, None]
        return np.concatenate([second, third], axis=1)

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
        from scipy.spatial import cKDTree

        return cKDTree(self.points[self.triangles].mean(axis=1))

    def barycentric(self, triangle: np.ndarray, points: Array) -> Array:
        """Coordinates (n, 3) of ``points`` in the given triangles."""
        a, b, c, d, e, f = self._coefficients.take(triangle, axis=0).T
        x, y = points.T
        result = np.empty((3, len(points)))
        result[1] = a + b * x + c * y
        result[2] = d + e * x + f * y
        np.subtract(1 - result[1], result[2], out=result[0])
        return result.T

    @cached_property
    def _beyond(self) -> np.ndarray:
        """The triangle (t, 3) across the edge opposite each corner, -1 at the boundary."""
        t = self.triangles
        edges = np.stack([t[:, [1, 2]], t[:, [2, 0]], t[:, [0, 1]]], axis=1)
        key = np.sort(edges, axis=2) @ np.array([len(self.points), 1])
        order = np.argsort(key.ravel(), kind="stable")
        sorted_key = key.ravel()[order]
        pair = np.nonzero(sorted_key[1:] == sorted_key[:-1])[0]
        beyond = np.full(key.size, -1)
        one, other = order[pair], order[pair + 1]
        beyond[one], beyond[other] = other // 3, one // 3
        return beyond.reshape(-1, 3)

    @cached_property
    def _guesses(self) -> tuple[Array, float, np.ndarray]:
        """Low corner, cell size, and a triangle near the middle of each cell of a fine raster."""
        from scipy.spatial import cKDTree

        low = self.points.min(axis=0)
        extent = np.maximum(self.points.max(axis=0) - low, 1e-9)
        cell = float(np.sqrt(extent.prod() / min(GUESSES * len(self.triangles), MOST_GUESSES)))
        counts = np.ceil(extent / cell).astype(int) + 1
        middles = low + (np.indices(counts).reshape(2, -1).T + 0.5) * cell
        corners = self.points[self.triangles]
        # a cell that reaches into a triangle has its middle no further from that triangle's than this
        reach = cell + float(np.linalg.norm(np.ptp(corners, axis=1), axis=1).max())
        found = cKDTree(corners.mean(axis=1)).query(middles, distance_upper_bound=reach)[1]
        return low, cell, np.where(found < len(corners), found, 0).reshape(counts)

    def find(self, points: Array) -> tuple[np.ndarray, Array, np.ndarray]:
        """Triangle (n,), barycentric coordinates (n, 3), and whether the point is inside (n,).

        A point outside all triangles gets one near it, and coordinates that continue it. Walks from a
        guessed triangle across the edge that the point lies furthest beyond (Devillers, Pion and
        Teillaud, Walking in a triangulation, 2002); where that leaves the triangles, searches.
        """
        low, cell, guesses = self._guesses
        across, up = ((points - low) * (1 / cell)).T
        columns = np.clip(across, 0, guesses.shape[0] - 1).astype(np.int64)
        rows = np.clip(up, 0, guesses.shape[1] - 1).astype(np.int64)
        found = guesses.ravel().take(columns * guesses.shape[1] + rows)
        coordinates = self.barycentric(found, points)
        inside = least_of(coordinates) >= -1e-9
        walking = np.nonzero(~inside)[0]
        for _ in range(STEPS):
            if not len(walking):
                break
            first, second, third = coordinates[walking].T
            furthest = np.where(first < second, np.where(first < third, 0, 2), np.where(second < third, 1, 2))
            across = self._beyond[found[walking], furthest]
            walking, across = walking[across >= 0], across[across >= 0]
            weights = self.barycentric(across, points[walking])
            found[walking], coordinates[walking] = across, weights
            arrived = least_of(weights) >= -1e-9
            inside[walking[arrived]] = True
            walking = walking[~arrived]
        lost = np.nonzero(~inside)[0]
        if len(lost):
            found[lost], coordinates[lost], inside[lost] = self._searched(points[lost])
        return found, coordinates, inside

    def _searched(self, points: Array) -> tuple[np.ndarray, Array, np.ndarray]:
        """As ``find``, by trying all triangles whose boxes reach into the cell of each point."""
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
            least = least_of(weights)
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


@record
class TriangleMap(Lazy):
    """Carries points linearly, triangle by triangle, to where the corners are in ``target`` (n, 2)."""

    finder: TriangleFinder
    target: Array

    @cached_property
    def _corners(self) -> Array:
        """First corner and both edges (t, 6) of each triangle in the target."""
        a, b, c = np.moveaxis(self.target[self.finder.triangles], 1, 0)
        return np.concatenate([a, b - a, c - a], axis=1)

    def carry(self, points: Array) -> tuple[Array, np.ndarray, np.ndarray]:
        """Carried points (n, 2), whether each was inside, and whether it was at least beside (n,)."""
        triangle, weights, inside = self.finder.find(points)
        ax, ay, bx, by, cx, cy = self._corners.take(triangle, axis=0).T
        _, second, third = weights.T
        carried = np.empty((2, len(points)))
        carried[0] = ax + second * bx + third * cx
        carried[1] = ay + second * by + third * cy
        carried = carried.T
        return carried, inside, inside if inside.all() else least_of(weights) > -1.0
