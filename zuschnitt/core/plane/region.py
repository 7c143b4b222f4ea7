"""A region of the plane, asked for many points at once."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property, reduce
from typing import TYPE_CHECKING

import numpy as np
import shapely

from ..geometry.curves import Array
from ..lazy import Lazy
from ..record import record

if TYPE_CHECKING:
    from scipy.spatial import cKDTree

TOUCH = 2e-3
"""Outlines that reach into each other by no more than this, in mm, touch."""
CELLS = 192
SAMPLES = 4000
SIMPLE = 12
"""Of a region with no more spans than this, all are tried."""
FEW = 2000
"""For fewer points than this, the raster is not worth making."""


def rings_of(polygon: shapely.Polygon) -> list[Array]:
    """The rings (n, 2) of a polygon, the outer one first, each with the material on its left."""
    walked = shapely.geometry.polygon.orient(polygon)
    return [np.array(ring.coords)[:-1] for ring in (walked.exterior, *walked.interiors)]


def triangles_within(shape: shapely.Geometry) -> Array:
    """Triangles (t, 3, 2) of polygons between the points of their rings, anticlockwise (constrained Delaunay)."""
    parts = shapely.constrained_delaunay_triangles(shapely.get_parts(shape))
    found = shapely.get_coordinates(shapely.get_parts(parts)).reshape(-1, 4, 2)[:, :3]
    a, b, c = np.moveaxis(found, 1, 0)
    back = (b - a)[:, 0] * (c - a)[:, 1] < (b - a)[:, 1] * (c - a)[:, 0]
    found[back] = found[back][:, ::-1]
    return np.asarray(found)


@record
class Region(Lazy):
    """Bounded by closed polylines ``rings``, each (n, 2): even-odd, holes by a ring inside."""

    rings: tuple[Array, ...]

    @cached_property
    def shape(self) -> shapely.Geometry:
        parts = [shapely.make_valid(shapely.Polygon(ring)) for ring in self.rings if len(ring) >= 3]
        area = reduce(shapely.symmetric_difference, parts) if parts else shapely.Polygon()
        shapely.prepare(area)
        return area

    @cached_property
    def box(self) -> tuple[Array, Array]:
        """The lowest and the highest corner (2,)."""
        points = np.vstack(self.rings)
        return points.min(axis=0), points.max(axis=0)

    @cached_property
    def _spans(self) -> tuple[Array, Array, cKDTree, np.ndarray]:
        """Starts and directions of the boundary's spans, and a tree of samples with their spans."""
        from scipy.spatial import cKDTree

        start = np.vstack(self.rings)
        direction = np.vstack([np.roll(ring, -1, axis=0) - ring for ring in self.rings])
        step = np.abs(direction).sum() / SAMPLES
        count = np.ceil(np.linalg.norm(direction, axis=1) / max(step, 1e-12)).astype(int) + 1
        span = np.repeat(np.arange(len(start)), count)
        part = (np.arange(len(span)) - np.repeat(np.cumsum(count) - count, count)) / count[span]
        return start, direction, cKDTree(start[span] + part[:, None] * direction[span]), span

    @cached_property
    def _raster(self) -> tuple[Array, Array, Array]:
        """Low corner, cell size, and for each cell 0 outside, 1 inside, 2 touched by the boundary."""
        low, high = self.box
        cell = np.maximum((high - low) / CELLS, 1e-12)
        centres = low + (np.indices((CELLS, CELLS)).reshape(2, -1).T + 0.5) * cell
        kind = shapely.contains_xy(self.shape, centres).astype(np.int8).reshape(CELLS, CELLS)
        for ring in self.rings:
            kind[tuple(_cells_touched(np.vstack([ring, ring[:1]]), low, cell))] = 2
        return low, cell, kind

    @cached_property
    def overlap(self) -> float:
        """How many mm² lie over themselves. Rings that only touch themselves or each other have none.

        Holes must run against the rings that bound the region: what is covered twice counts twice in the sum of their
        areas, and not at all where an even number of windings is outside.
        """
        signed = sum(signed_area(ring) for ring in self.rings)
        return abs(abs(signed) - self.shape.area) / 2

    @property
    def touches_only(self) -> bool:
        """Whether it lies nowhere over itself, but for what rounding and flattening alone can make."""
        along = sum(float(np.linalg.norm(np.roll(ring, -1, axis=0) - ring, axis=1).sum()) for ring in self.rings)
        return self.overlap <= TOUCH * along

    def contains(self, points: Array, margin: float = 0.0) -> np.ndarray:
        """Which of ``points`` (n, 2) are inside, or not further outside than ``margin`` mm."""
        low, high = self.box
        x, y = points.T
        # False for what is not a number, too
        near = (x >= low[0] - margin) & (x <= high[0] + margin) & (y >= low[1] - margin) & (y <= high[1] + margin)
        if near.all():
            inside = self._contained(points)
        else:
            inside = np.zeros(len(points), bool)
            inside[near] = self._contained(points[near])
        if margin > 0 and not inside.all():
            out = np.nonzero(near & ~inside)[0]
            if len(out) >= FEW and margin < self._raster[1].min():  # only cells at the boundary are as near as that
                out = out[self._cell_kind(points[out]) == 2]
            inside[out] = self.distance(points[out]) <= margin
        return inside

    def _contained(self, points: Array) -> np.ndarray:
        if len(points) < FEW:
            return np.asarray(shapely.contains_xy(self.shape, points))
        found = self._cell_kind(points)
        inside = found == 1
        unsure = np.nonzero(found == 2)[0]
        if len(unsure):
            inside[unsure] = shapely.contains_xy(self.shape, points[unsure])
        return inside

    def _cell_kind(self, points: Array) -> np.ndarray:
        """What the raster says of each point's cell."""
        low, cell, kind = self._raster
        across, up = np.clip((points - low) / cell, 0, CELLS - 1).astype(np.int64).T
        return kind.ravel().take(across * CELLS + up)

    def distance(self, points: Array) -> Array:
        """Distances (n,) of ``points`` (n, 2) to the region's boundary, in mm."""
        if not len(points):
            return np.zeros(0)
        if sum(map(len, self.rings)) <= SIMPLE:
            least = np.full(len(points), np.inf)
            for ring in self.rings:
                for start, end in zip(ring, np.roll(ring, -1, axis=0), strict=True):
                    np.minimum(least, _squared_to_span(points, start, end - start), out=least)
        else:
            starts, directions, tree, span = self._spans
            nearest = span[tree.query(points, k=4)[1]]
            each = (_squared_to_span(points, starts[near], directions[near]) for near in nearest.T)
            least = np.minimum.reduce(list(each))
        return np.sqrt(least)


def _squared_to_span(points: Array, start: Array, along: Array) -> Array:
    """Squared distances (n,) of points (n, 2) to a straight span, or each to its own."""
    x, y = (points - start).T
    dx, dy = along.T
    part = np.clip((x * dx + y * dy) / np.maximum(dx * dx + dy * dy, 1e-300), 0, 1)
    return (x - part * dx) ** 2 + (y - part * dy) ** 2


def only_touch(rings: Sequence[Array]) -> bool:
    """Whether none of many rings lies over itself, and none crosses another by more than a touch.

    Only rings that are not simple, and pairs that cross, are looked at more closely.
    """
    rings = [ring for ring in rings if len(ring) >= 3]
    lines = np.array([shapely.LinearRing(ring) for ring in rings])
    if not all(Region((rings[i],)).touches_only for i in np.nonzero(~shapely.is_simple(lines))[0].tolist()):
        return False
    one, other = shapely.STRtree(lines).query(lines, predicate="crosses")
    pairs = zip(one[one < other].tolist(), other[one < other].tolist(), strict=True)
    return all(Region((rings[i], rings[j])).touches_only for i, j in pairs)


def signed_area(ring: Array) -> float:
    """The area within a ring (n, 2), positive where it runs anticlockwise."""
    ring = ring - ring[0]
    following = np.roll(ring, -1, axis=0)
    return float((ring[:, 0] * following[:, 1] - following[:, 0] * ring[:, 1]).sum() / 2)


def _cells_touched(line: Array, low: Array, cell: Array) -> Array:
    """Indices (2, k) of all cells that may meet the polyline (n, 2), with their neighbours."""
    start, end = (line[:-1] - low) / cell, (line[1:] - low) / cell
    steps = np.ceil(np.abs(end - start).max(axis=1) * 2).astype(int) + 1
    which = np.repeat(np.arange(len(steps)), steps)
    part = (np.arange(len(which)) - np.repeat(np.cumsum(steps) - steps, steps)) / steps[which]
    samples = np.floor(start[which] + part[:, None] * (end - start)[which]).astype(int)
    samples = np.vstack([samples, np.floor(line[-1:] - low) / cell]).astype(int)
    once = np.unique(np.clip(samples, -1, CELLS) @ [CELLS + 2, 1])  # as one number each, which sorts far faster
    samples = np.stack([(once + 1) // (CELLS + 2), (once + 1) % (CELLS + 2) - 1], axis=1)
    around = np.stack(np.meshgrid([-1, 0, 1], [-1, 0, 1]), axis=-1).reshape(-1, 2)
    return np.clip((samples[:, None] + around).reshape(-1, 2), 0, CELLS - 1).T
