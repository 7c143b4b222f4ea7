"""Triangles that pass through each other: found over a net of cells, so that most pairs are never looked at."""

from __future__ import annotations

import numpy as np

from ..geometry.curves import Array
from .plain_patches import plain_patches

MOST_ENTRIES = 4_000_000
"""Cells are made larger until triangles fall into no more than so many together."""
MOST_PAIRS = 2_000_000
"""So many pairs are tested at once."""
INSIDE = 1e-6
"""An edge passes a triangle where both its ends are off it by more than this part of its length."""
ON = 1e-9
"""So near to the rim of a triangle, as part of it, an edge still passes it: mirrored bodies meet rim to rim."""


def crossing(points: Array, triangles: np.ndarray) -> tuple[np.ndarray, Array]:
    """Pairs (k, 2) of triangles without a common point that pass through each other, and where each does (k, 3)."""
    found, places = [], []
    for near in _near(points, triangles, plain_patches(points, triangles)):
        a, b = triangles[near[:, 0]], triangles[near[:, 1]]
        pairs = near[~(a[:, :, None] == b[:, None, :]).any(axis=(1, 2))]
        for one, other in ((0, 1), (1, 0)):
            corners = points[triangles[pairs[:, other]]]
            for k in range(3):
                start = points[triangles[pairs[:, one], k]]
                end = points[triangles[pairs[:, one], (k + 1) % 3]]
                hit, at = _through(start, end, corners)
                found.append(pairs[hit])
                places.append(at[hit])
    if not found:
        return np.zeros((0, 2), int), np.zeros((0, 3))
    every, first = np.unique(np.sort(np.vstack(found), axis=1), axis=0, return_index=True)
    return every, np.vstack(places)[first]


def _near(points: Array, triangles: np.ndarray, patch: np.ndarray):
    """Pairs (k, 2) of triangles whose boxes meet in a cell, in handfuls; a pair may come more than once.

    Two of the same ``patch`` (t,) are left out, but where that is -1.
    """
    first_corner, second, third = points.T.take(triangles.T, axis=1).swapaxes(0, 1)
    low = np.minimum(np.minimum(first_corner, second), third)
    high = np.maximum(np.maximum(first_corner, second), third)
    origin = low.min(axis=1, keepdims=True)
    size = float(np.median((high - low).max(axis=0))) * 1.5 or 1.0
    while True:
        first = np.floor((low - origin) / size).astype(np.int64)
        count = np.floor((high - origin) / size).astype(np.int64) - first + 1
        entries = count[0] * count[1] * count[2]
        if entries.sum() <= MOST_ENTRIES:
            break
        size *= 1.6
    owner = np.repeat(np.arange(len(triangles)), entries)
    place = np.arange(len(owner)) - np.repeat(np.cumsum(entries) - entries, entries)
    along, across = count[0][owner], count[1][owner]
    column, row, layer = first.take(owner, axis=1)
    column, row, layer = column + place % along, row + place // along % across, layer + place // (along * across)
    key = (column * (row.max() + 1) + row) * (layer.max() + 1) + layer
    order = np.argsort(key, kind="stable")
    owner, key = owner[order], key[order]
    begin = np.flatnonzero(np.r_[True, key[1:] != key[:-1]])
    here = patch[owner]
    one_patch = np.minimum.reduceat(here, begin) == np.maximum.reduceat(here, begin)
    members = np.diff(np.r_[begin, len(key)])
    asked = np.repeat(~(one_patch & (here[begin] >= 0)), members)
    end = np.repeat(begin + members, members)
    further = np.where(asked, end - np.arange(len(key)) - 1, 0)  # how many come after each in its cell
    batches = np.flatnonzero(np.diff(np.cumsum(further) // MOST_PAIRS)) + 1
    for part in np.split(np.arange(len(key)), batches):
        many = further[part]
        one = np.repeat(part, many)
        other = one + 1 + np.arange(len(one)) - np.repeat(np.cumsum(many) - many, many)
        a, b = owner[one], owner[other]
        meet = (patch[a] != patch[b]) | (patch[a] < 0)
        for k in range(3):
            meet &= (low[k][a] <= high[k][b]) & (low[k][b] <= high[k][a])
        yield np.stack([a[meet], b[meet]], axis=1)


def _through(start: Array, end: Array, corners: Array) -> tuple[np.ndarray, Array]:
    """Which segments (n, 3) pass through their triangles (n, 3, 3), and where (Möller and Trumbore, 1997)."""
    along, u, v = end - start, corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    across = np.cross(along, v)
    volume = np.einsum("ij,ij->i", u, across)
    scale = np.linalg.norm(along, axis=1) * np.linalg.norm(np.cross(u, v), axis=1)
    steep = np.abs(volume) > 1e-9 * scale
    inverse = np.where(steep, 1 / np.where(steep, volume, 1), 0)
    off = start - corners[:, 0]
    p = np.einsum("ij,ij->i", off, across) * inverse
    turned = np.cross(off, u)
    q = np.einsum("ij,ij->i", along, turned) * inverse
    t = np.einsum("ij,ij->i", v, turned) * inverse
    hit = steep & (p > -ON) & (q > -ON) & (p + q < 1 + ON) & (t > INSIDE) & (t < 1 - INSIDE)
    return hit, start + t[:, None] * along
