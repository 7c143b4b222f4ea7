"""Contours that were drawn more than once, as exports often have them: a beam would run along each of them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from .contour import Contour, flattened

EQUAL = 1e-6
"""Lines and arcs whose ends and bulges differ by no more than this, in mm, are the same."""
ALIKE = 0.01
"""Contours of other lines and arcs that are nowhere further apart than this, in mm, are one."""
FINE = 0.002
"""They are looked at within this, in mm."""


def each_once(contours: Sequence[Contour], across_layers: bool = False) -> list[Contour]:
    """The contours without those that lie on an earlier one all along, whichever way they run, wherever they begin.

    ``across_layers`` the layers on which they were drawn do not matter.
    """
    layers = ["" if across_layers else contour.layer for contour in contours]
    first: dict[tuple[bytes, str], int] = {}
    for k, contour in enumerate(contours):
        first.setdefault((_segments(contour), layers[k]), k)
    kept = list(first.values())
    return [contours[kept[k]] for k in _unlike([contours[k] for k in kept], [layers[k] for k in kept])]


def _segments(contour: Contour) -> bytes:
    """Its lines and arcs in an order of their own, each from its lower end."""
    start, end, bulge = contour.spans
    forward = np.column_stack([start, end, bulge])
    back = np.column_stack([end, start, -bulge])
    flip = (start > end).any(axis=1) & ((start[:, 0] > end[:, 0]) | (start[:, 0] == end[:, 0]))
    rows = np.round(np.where(flip[:, None], back, forward) / EQUAL).astype(np.int64)
    return rows[np.lexsort(rows.T)].tobytes()


def _unlike(contours: Sequence[Contour], layers: Sequence[str]) -> list[int]:
    """Which of them lie on no earlier one."""
    from scipy.spatial import cKDTree

    if len(contours) < 2:
        return list(range(len(contours)))
    bounds = np.array([np.concatenate(contour.bounds) for contour in contours])
    pairs = cKDTree(bounds).query_pairs(2 * ALIKE, output_type="ndarray")
    pairs = pairs[[layers[a] == layers[b] for a, b in pairs.tolist()]]
    asked, where = np.unique(pairs, return_inverse=True)
    lines = np.array([shapely.LineString(points) for points in flattened([contours[k] for k in asked], FINE)])
    one, other = lines[where.reshape(-1, 2)].T if len(pairs) else ([], [])
    lengths = shapely.length(one), shapely.length(other)
    alike = (shapely.hausdorff_distance(one, other) < ALIKE) & (np.abs(np.subtract(*lengths)) < 0.01 * lengths[0])
    return np.setdiff1d(np.arange(len(contours)), pairs[alike].max(axis=1, initial=-1)).tolist()
