"""The surface of a mesh: triangles with a map of them to the plane as their parameters."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from ..geometry.curves import Array
from ..geometry.surfaces import Surface
from ..lazy import Lazy, late
from ..record import record
from .triangles import TriangleFinder

if TYPE_CHECKING:
    from scipy.spatial import cKDTree

MOST_SEEDS = 400_000


@late("uv")
@record
class MeshSurface(Lazy, Surface):
    """``points`` (n, 3) in mm, ``uv`` (n, 2) without flipped triangles, ``triangles`` (t, 3).

    ``developable`` tells that ``uv`` is the face laid flat, in mm, with no triangle stretched.
    """

    points: Array
    uv: Array
    triangles: np.ndarray
    developable: bool = False

    @property
    def kind(self) -> str:  # type: ignore[override]
        return "ruled" if self.developable else "freeform"

    @cached_property
    def _finder(self) -> TriangleFinder:
        return TriangleFinder(self.uv, self.triangles)

    def evaluate(self, uv: Array) -> Array:
        triangle, weights, _ = self._finder.find(np.asarray(uv, float))
        return np.einsum("nk,nkd->nd", weights, self.points[self.triangles[triangle]])

    @cached_property
    def _slopes(self) -> Array:
        """The derivatives (t, 2, 3) by both parameters on each triangle."""
        corner, flat = self.points[self.triangles], self.uv[self.triangles]
        e1, e2 = corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]
        f1, f2 = flat[:, 1] - flat[:, 0], flat[:, 2] - flat[:, 0]
        det = (f1[:, 0] * f2[:, 1] - f1[:, 1] * f2[:, 0])[:, None]
        return np.stack([e1 * f2[:, 1:] - e2 * f1[:, 1:], e2 * f1[:, :1] - e1 * f2[:, :1]], axis=1) / det[:, None]

    def derivatives(self, uv: Array) -> tuple[Array, Array]:
        slopes = self._slopes[self._finder.find(np.asarray(uv, float))[0]]
        return slopes[:, 0], slopes[:, 1]

    @cached_property
    def _corner_normals(self) -> Array:
        """Normals (n, 3) at the points: those of the triangles round each, weighed by their angles there."""
        corner = self.points[self.triangles]
        along, across = self._slopes[:, 0], self._slopes[:, 1]
        normal = np.cross(along, across)
        normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-300)
        found = np.zeros_like(self.points)
        for k in range(3):
            one, other = (np.roll(corner, -k, axis=1)[:, j] - np.roll(corner, -k, axis=1)[:, 0] for j in (1, 2))
            sizes = np.maximum(np.linalg.norm(one, axis=1) * np.linalg.norm(other, axis=1), 1e-300)
            angle = np.arccos(np.clip((one * other).sum(axis=1) / sizes, -1, 1))
            np.add.at(found, self.triangles[:, k], angle[:, None] * normal)
        return found / np.maximum(np.linalg.norm(found, axis=1, keepdims=True), 1e-300)

    def smooth_normals(self, uv: Array) -> Array:
        triangle, weights, _ = self._finder.find(np.asarray(uv, float))
        found = np.einsum("nk,nkd->nd", weights, self._corner_normals[self.triangles[triangle]])
        return found / np.maximum(np.linalg.norm(found, axis=1, keepdims=True), 1e-300)

    @cached_property
    def _seeds(self) -> tuple[cKDTree, np.ndarray, float]:
        """A tree of points strewn over the triangles, the triangle of each, and how far one may be from them."""
        from scipy.spatial import cKDTree

        corner = self.points[self.triangles]
        longest = np.linalg.norm(corner - np.roll(corner, 1, axis=1), axis=2).max(axis=1)
        reach = max(float(np.median(longest)), float(np.sqrt((longest**2).sum() / MOST_SEEDS)))
        each = np.maximum(np.ceil(longest / reach).astype(int), 1)
        middles, owner = [], []
        for k in np.unique(each):
            mine = np.nonzero(each == k)[0]
            i, j = np.meshgrid(np.arange(k), np.arange(k), indexing="ij")
            up = np.stack([i, j], axis=-1)[i + j < k] + 1 / 3
            down = np.stack([i, j], axis=-1)[i + j < k - 1] + 2 / 3
            part = np.vstack([up, down]) / k
            weights = np.column_stack([1 - part.sum(axis=1), part])
            middles.append(np.einsum("sk,tkd->tsd", weights, corner[mine]).reshape(-1, 3))
            owner.append(np.repeat(mine, len(part)))
        return cKDTree(np.vstack(middles)), np.concatenate(owner), reach * 2 / 3

    def project(self, points: Array) -> Array:
        """Of the nearest point of the triangles, by the exact distance to each of the triangles nearby."""
        triangle, weights = self._nearest(points)
        return np.einsum("nk,nkd->nd", weights, self.uv[self.triangles[triangle]])

    def nearest(self, points: Array) -> Array:
        triangle, weights = self._nearest(points)
        return np.einsum("nk,nkd->nd", weights, self.points[self.triangles[triangle]])

    def _nearest(self, points: Array) -> tuple[np.ndarray, Array]:
        """The triangle (n,) that holds the nearest point, and that one's barycentric weights (n, 3)."""
        points = np.asarray(points, float)
        tree, owner, reach = self._seeds
        triangle, found = np.zeros(len(points), int), np.zeros((len(points), 3))
        waiting, k = np.arange(len(points)), 12
        while len(waiting):
            k = min(k, tree.n)
            gap, seed = tree.query(points[waiting], k=k)
            gap, seed = gap.reshape(len(waiting), k), seed.reshape(len(waiting), k)
            candidate = owner[seed]
            weights, distance = _feet(points[waiting], self.points[self.triangles[candidate]])
            best = distance.argmin(axis=1)
            row = np.arange(len(waiting))
            triangle[waiting], found[waiting] = candidate[row, best], weights[row, best]
            sure = (gap[:, -1] > distance[row, best] + reach) | (k == tree.n)
            waiting, k = waiting[~sure & (k < 800)], 4 * k
        return triangle, found


def _feet(points: Array, corners: Array) -> tuple[Array, Array]:
    """Barycentric weights (n, k, 3) of the nearest point of triangles ``corners`` (n, k, 3, 3), and distances.

    Ericson, Real-Time Collision Detection, 2005, section 5.1.5: the foot in the plane where it is inside,
    else the nearest of the three sides.
    """
    a, b, c = np.moveaxis(corners, 2, 0)
    p = points[:, None]
    ab, ac, ap = b - a, c - a, p - a
    d00, d01, d11 = (np.einsum("nkd,nkd->nk", x, y) for x, y in ((ab, ab), (ab, ac), (ac, ac)))
    d20, d21 = np.einsum("nkd,nkd->nk", ap, ab), np.einsum("nkd,nkd->nk", ap, ac)
    det = np.maximum(d00 * d11 - d01 * d01, 1e-300)
    v, w = (d11 * d20 - d01 * d21) / det, (d00 * d21 - d01 * d20) / det
    weights = np.stack([1 - v - w, v, w], axis=-1)
    outside = weights.min(axis=-1) < 0
    best = np.where(outside, np.inf, np.linalg.norm(p - _mixed(weights, corners), axis=-1))
    for i, j in ((0, 1), (1, 2), (2, 0)):
        side = corners[:, :, j] - corners[:, :, i]
        length = np.maximum(np.einsum("nkd,nkd->nk", side, side), 1e-300)
        along = np.clip(np.einsum("nkd,nkd->nk", p - corners[:, :, i], side) / length, 0, 1)
        trial = np.zeros_like(weights)
        trial[..., i], trial[..., j] = 1 - along, along
        gap = np.linalg.norm(p - _mixed(trial, corners), axis=-1)
        nearer = gap < best
        weights[nearer], best[nearer] = trial[nearer], gap[nearer]
    return weights, best


def _mixed(weights: Array, corners: Array) -> Array:
    return np.einsum("nkc,nkcd->nkd", weights, corners)
