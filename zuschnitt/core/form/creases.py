"""Creases within a face: parameters at which its surface may turn sharply, and triangles split along them."""

from __future__ import annotations

import numpy as np

from ..geometry.curves import Array
from ..geometry.surfaces import Surface
from .charts import Chart
from .form import Coedge

SAMPLES = 513
"""At so many places a walk along an edge is asked on which side of a crease it is."""
HALVINGS = 60
STEPS = 18
NEAR = 1e-7
"""A point whose parameter is nearer to a crease than this part of the surface's extent lies on it."""
CLOSE = 1e-4
"""An edge that crosses a crease within this part of its length from one of its ends has that end on the crease."""


def crossings(coedge: Coedge, surface: Surface) -> list[float]:
    """The parameters at which a walk along an edge of a face on ``surface`` crosses its creases."""
    found: list[float] = []
    for axis, values in enumerate(surface.sharp):
        if not len(values):
            continue
        t = np.linspace(min(coedge.start, coedge.end), max(coedge.start, coedge.end), SAMPLES)
        along = coedge.uv(t)[:, axis]
        for value in values:
            off = along - value
            change = np.nonzero((off[1:] > 0) != (off[:-1] > 0))[0]
            low, high = t[change], t[change + 1]
            rises = off[change + 1] > 0
            for _ in range(HALVINGS if len(change) else 0):
                middle = (low + high) / 2
                beyond = (coedge.uv(middle)[:, axis] > value) == rises
                low, high = np.where(beyond, low, middle), np.where(beyond, middle, high)
            found += [float(at) for at in high if t[0] < at < t[-1]]
    return found


def split_along_creases(uv: Array, triangles: np.ndarray, chart: Chart) -> tuple[Array, np.ndarray]:
    """Triangles (t, 3) over parameters (n, 2) with those across creases split there; new points come last."""
    for axis, values in enumerate(chart.surface.sharp):
        for value in values:
            uv, triangles = _split(uv, triangles, chart, axis, float(value))
    return uv, triangles


def _split(uv: Array, triangles: np.ndarray, chart: Chart, axis: int, value: float) -> tuple[Array, np.ndarray]:
    off = uv[:, axis] - value
    off[np.abs(off) < NEAR * max(float(np.ptp(uv[:, axis])), 1e-300)] = 0.0
    side = np.sign(off)
    edges = np.sort(np.vstack([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]]), axis=1)
    edges = np.unique(edges[side[edges].prod(axis=1) < 0], axis=0)
    if not len(edges):
        return uv, triangles
    found, share = _met(uv, edges, chart, axis, value)
    side[edges[share < CLOSE, 0]] = 0  # the tip of a fan has any parameter within it
    side[edges[share > 1 - CLOSE, 1]] = 0
    kept = side[edges].prod(axis=1) < 0
    between = {(int(a), int(b)): len(uv) + k for k, (a, b) in enumerate(edges[kept])}
    corner = side[triangles]
    across = (corner.max(axis=1) > 0) & (corner.min(axis=1) < 0)
    parts = [part for triangle in triangles[across].tolist() for part in _parts(triangle, side, between)]
    return np.vstack([uv, found[kept]]), np.vstack([triangles[~across], np.array(parts, int).reshape(-1, 3)])


def _met(uv: Array, ends: np.ndarray, chart: Chart, axis: int, value: float) -> tuple[Array, Array]:
    """Where straight lines in the chart between points ``ends`` (k, 2) cross the crease: parameters (k, 2), and the
    shares (k,) of the way to there. By bisection, as parameters jump at the tip of a fan."""
    start, end = (chart.flatten(uv[ends[:, k]]) for k in (0, 1))
    below = uv[ends[:, 0], axis] < value
    low, high = np.zeros(len(ends)), np.ones(len(ends))
    for _ in range(STEPS):
        share = (low + high) / 2
        first = (chart.unflatten(start + share[:, None] * (end - start))[:, axis] < value) == below
        low, high = np.where(first, share, low), np.where(first, high, share)
    found = chart.unflatten(start + high[:, None] * (end - start))
    found[:, axis] = value
    return found, high


def _parts(triangle: list[int], side: Array, between: dict[tuple[int, int], int]) -> list[list[int]]:
    """The two or three triangles on both sides; ``between`` numbers the points at which its edges cross the crease."""
    ring: list[int] = []
    on: list[int] = []
    for a, b in zip(triangle, triangle[1:] + triangle[:1], strict=True):
        if side[a] == 0:
            on.append(len(ring))
        ring.append(a)
        if side[a] * side[b] < 0:
            on.append(len(ring))
            ring.append(between[min(a, b), max(a, b)])
    i, j = on
    halves = [ring[i : j + 1], ring[j:] + ring[: i + 1]]
    return [[half[0], half[k], half[k + 1]] for half in halves for k in range(1, len(half) - 1)]
