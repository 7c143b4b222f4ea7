"""A start for large meshes: how each triangle is turned, found on a coarse mesh of the same sheet.

Points are gathered into cells round seeds, and cells that meet three by three make the coarse mesh (the dual of their
Voronoi diagram along the edges). Developed, it tells each cell how it is turned; one global step on the fine mesh, for
which the factor is at hand anyway, makes that a smooth map (a multilevel start, as in Hormann, Greiner and
Campagna, Hierarchical parametrization of triangulated surfaces, 1999).
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from scipy.sparse.csgraph import dijkstra

from ..geometry.curves import Array
from ..mesh.opening import characteristic, graph, half_edges
from ..mesh.triangles import boundary_rings
from .metric import Metric
from .pinned import Pinned
from .rolled_out import laid, mended

FEWEST, MOST = 1500, 3000
"""How many cells the points are gathered into, about,"""
POINTS = 8
"""with so many points in each, or more."""

MENDS = 3
"""How many global steps more are tried where a few triangles are flipped."""

Develop = Callable[[Array, np.ndarray], Array]
"""Lays a coarse mesh, points (n, 3) and triangles (t, 3), flat: points (n, 2)."""


def turned_by_cells(
    points_form: Array, triangles: np.ndarray, metric: Metric, factor: Pinned, develop: Develop
) -> Array | None:
    """A map (n, 2) of a disc-like mesh without flipped triangles; None where the coarse mesh gives none."""
    cell, seeds = _cells(points_form, triangles, float(metric.areas.sum()))
    coarse = _coarse(cell[triangles])
    if coarse is None:
        return None
    used, local = np.unique(coarse, return_inverse=True)
    local = local.reshape(-1, 3)
    corners = points_form[seeds[used]]
    flat = develop(corners, local)
    turns = _turns(corners, flat, local)
    of_cell = np.full(len(seeds), -1)
    of_cell[used] = np.arange(len(used))
    here = of_cell[cell[triangles]]
    known = here >= 0
    if not known.any(axis=1).all():
        return None
    weights = known / known.sum(axis=1, keepdims=True)
    turn = np.einsum("tk,tkij->tij", weights, turns[here])
    return mended(laid(metric, factor, *_in_plane(points_form, triangles, turn)), metric, factor, MENDS)


def _cells(points: Array, triangles: np.ndarray, area: float) -> tuple[np.ndarray, np.ndarray]:
    """The cell of each point (n,), and the points (m,) that the cells are grown from."""
    size = np.sqrt(area / np.clip(len(points) / POINTS, FEWEST, MOST))
    box = np.floor((points - points.min(axis=0)) / size).astype(int)
    _, seeds = np.unique(np.ravel_multi_index(tuple(box.T), tuple(box.max(axis=0) + 1)), return_index=True)
    _, _, source = dijkstra(
        graph(points, triangles), directed=False, indices=seeds, min_only=True, return_predecessors=True
    )
    cell = np.full(len(points), -1)
    cell[seeds] = np.arange(len(seeds))
    return cell[source], seeds


def _coarse(cells: np.ndarray) -> np.ndarray | None:
    """Triangles (k, 3) of cells that meet; None where they are no sheet that can lie flat."""
    a, b, c = cells.T
    met = cells[(a != b) & (b != c) & (c != a)]
    if not len(met):
        return None
    first = met.argmin(axis=1)
    turned = np.unique(np.take_along_axis(met, (first[:, None] + np.arange(3)) % 3, axis=1), axis=0)
    halves = half_edges(turned)
    rings = None
    if len(np.unique(halves, axis=0)) == len(halves):
        rings = boundary_rings(turned)
    if not rings or characteristic(turned) + len(rings) != 2:
        return None
    outline = np.concatenate(rings)
    if len(np.unique(outline)) < len(outline):  # parts that hang together in a point alone can turn about it
        return None
    return turned


def _turns(corners: Array, flat: Array, triangles: np.ndarray) -> Array:
    """For each coarse point the linear map (2, 3) that takes its neighbours round it to their places in the plane."""
    halves = half_edges(triangles)
    i, j = np.concatenate([halves, halves[:, ::-1]]).T
    across, along = corners[j] - corners[i], flat[j] - flat[i]
    n = len(corners)
    square, mixed = np.zeros((n, 3, 3)), np.zeros((n, 2, 3))
    np.add.at(square, i, across[:, :, None] * across[:, None, :])
    np.add.at(mixed, i, along[:, :, None] * across[:, None, :])
    square += 1e-3 * np.trace(square, axis1=1, axis2=2)[:, None, None] * np.eye(3)
    return mixed @ np.linalg.inv(square)


def _in_plane(points: Array, triangles: np.ndarray, turn: Array) -> tuple[Array, Array]:
    """How the triangles are turned in the plane by ``turn`` (t, 2, 3): cosine and sine (t,), times some size."""
    a, b, c = (points[triangles[:, k]] for k in range(3))
    x_axis = (b - a) / np.linalg.norm(b - a, axis=1, keepdims=True)
    y_axis = c - a - np.einsum("ij,ij->i", c - a, x_axis)[:, None] * x_axis
    y_axis /= np.linalg.norm(y_axis, axis=1, keepdims=True)
    right, up = np.einsum("tij,tj->ti", turn, x_axis), np.einsum("tij,tj->ti", turn, y_axis)
    return right[:, 0] + up[:, 1], right[:, 1] - up[:, 0]
