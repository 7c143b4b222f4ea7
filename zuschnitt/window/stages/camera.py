"""How the form is looked at: a parallel projection, as on a drawing. Knows no Qt and no VTK."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ...core.record import record

Array = NDArray[np.float64]

VIEWS = {
    "corner": (-72.0, 24.0),
    "front": (-90.0, 0.0),
    "right": (0.0, 0.0),
    "left": (180.0, 0.0),
    "back": (90.0, 0.0),
    "top": (-90.0, 90.0),
    "bottom": (-90.0, -90.0),
}
"""Standard views: azimuth and elevation in degrees of where one looks from."""


@record
class Camera:
    """``target`` (3,) is in the middle of the stage; ``scale`` is pixels per mm."""

    target: Array
    azimuth: float = VIEWS["corner"][0]
    elevation: float = VIEWS["corner"][1]
    scale: float = 1.0

    @property
    def axes(self) -> Array:
        """Rows: to the right, upwards, and towards the eye, as unit vectors (3, 3)."""
        a, e = np.radians([self.azimuth, self.elevation])
        back = np.array([np.cos(e) * np.cos(a), np.cos(e) * np.sin(a), np.sin(e)])
        right = np.array([-np.sin(a), np.cos(a), 0.0])
        return np.array([right, np.cross(back, right), back])

    def project(self, points: Array, size: tuple[float, float]) -> Array:
        """Pixels (n, 2), y down, of points (n, 3) on a stage of that size."""
        right, up, _ = self.axes
        local = (np.atleast_2d(points) - self.target) @ np.array([right, up]).T * self.scale
        return local * [1, -1] + np.array(size) / 2

    def ray(self, x: float, y: float, size: tuple[float, float]) -> tuple[Array, Array]:
        """A point on the line of sight under a pixel, and its direction away from the eye."""
        right, up, back = self.axes
        across = ((x - size[0] / 2) * right - (y - size[1] / 2) * up) / self.scale
        return self.target + across, -back

    def turned(self, across: float, upwards: float) -> Camera:
        """Turned by degrees."""
        elevation = float(np.clip(self.elevation + upwards, -90, 90))
        return replace(self, azimuth=(self.azimuth + across) % 360, elevation=elevation)

    def moved(self, dx: float, dy: float) -> Camera:
        """What one sees moved by pixels, y down."""
        right, up, _ = self.axes
        return replace(self, target=self.target - (dx * right - dy * up) / self.scale)

    def zoomed(self, factor: float, x: float, y: float, size: tuple[float, float]) -> Camera:
        """Zoomed so that what is under the pixel stays there."""
        factor = float(np.clip(self.scale * factor, 1e-4, 1e4)) / self.scale
        point, _ = self.ray(x, y, size)
        return replace(self, scale=self.scale * factor, target=point + (self.target - point) / factor)

    def fitted(self, points: Array, size: tuple[float, float], margin: float = 0.82) -> Camera:
        """So that all ``points`` (n, 3) are seen from the same direction."""
        right, up, back = self.axes
        local = points @ np.array([right, up, back]).T
        low, high = local.min(axis=0), local.max(axis=0)
        extent = np.maximum(high - low, 1e-9)
        scale = margin * float(min(size[0] / extent[0], size[1] / extent[1]))
        return replace(self, target=(low + high) / 2 @ np.array([right, up, back]), scale=scale)

    def seen_from(self, view: str) -> Camera:
        azimuth, elevation = VIEWS[view]
        return replace(self, azimuth=azimuth, elevation=elevation)


def hit(origin: Array, direction: Array, corners: Array) -> tuple[int, Array] | None:
    """The first of the triangles ``corners`` (t, 3, 3) that a line meets, and where (3,).

    Source: Möller and Trumbore, Fast, minimum storage ray/triangle intersection, 1997.
    """
    a = corners[:, 0]
    e1, e2 = corners[:, 1] - a, corners[:, 2] - a
    p = np.cross(direction, e2)
    det = np.einsum("ij,ij->i", e1, p)
    with np.errstate(divide="ignore", invalid="ignore"):
        s = origin - a
        u = np.einsum("ij,ij->i", s, p) / det
        q = np.cross(s, e1)
        v = q @ direction / det
        t = np.einsum("ij,ij->i", e2, q) / det
        met = (np.abs(det) > 1e-14) & (u >= -1e-9) & (v >= -1e-9) & (u + v <= 1 + 1e-9)
    if not met.any():
        return None
    index = int(np.where(met, t, np.inf).argmin())
    return index, origin + t[index] * direction


def silhouette(points: Array, normals: Array, triangles: NDArray, towards: Array) -> Array:
    """Segments (s, 2, 3) where a smooth face turns away from the eye."""
    facing = normals @ towards
    signs = (facing > 0)[triangles]
    mixed = triangles[signs.any(axis=1) & ~signs.all(axis=1)]
    if not len(mixed):
        return np.zeros((0, 2, 3))
    ends = []
    for i, j in ((0, 1), (1, 2), (2, 0)):
        a, b = facing[mixed[:, i]], facing[mixed[:, j]]
        crossing = (a > 0) != (b > 0)
        part = np.where(crossing, a / np.where(a == b, 1, a - b), 0)[:, None]
        point = points[mixed[:, i]] + part * (points[mixed[:, j]] - points[mixed[:, i]])
        ends.append((crossing, point))
    order = np.argsort(~np.stack([crossing for crossing, _ in ends], axis=1), axis=1, kind="stable")
    stacked = np.stack([point for _, point in ends], axis=1)
    rows = np.arange(len(mixed))
    return np.stack([stacked[rows, order[:, 0]], stacked[rows, order[:, 1]]], axis=1)
