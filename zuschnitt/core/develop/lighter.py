"""A fold mesh with fewer triangles, of points of the finer one, to look at while it moves."""

from __future__ import annotations

import numpy as np
import shapely

from ..geometry.curves import Array
from ..mesh.constrained import with_edges
from ..mesh.opening import edge_keys, half_edges
from ..mesh.triangles import boundary_rings, signed_double_areas
from .folding import FoldMesh

TURN = np.radians(2.0)
"""At points of the rim that turn by more than this, the rim keeps its point."""


def lighter(mesh: FoldMesh, most: int) -> FoldMesh:
    """A mesh of at most about ``most`` triangles over the same blank.

    Where the blank's rim cannot be kept with fewer points, the mesh stays as it is.
    """
    from scipy.spatial import Delaunay, cKDTree

    area = float(np.abs(signed_double_areas(mesh.points_blank, mesh.triangles)).sum()) / 2
    side = float(np.sqrt(area / (0.433 * most)))
    rings = [ring[_kept(mesh, ring, side)] for ring in boundary_rings(mesh.triangles)]
    rim = np.concatenate(rings)
    inner = np.setdiff1d(np.unique(mesh.triangles), rim)
    cells = np.floor(mesh.points_blank[inner] / side).astype(int)
    inner = inner[np.unique(cells, axis=0, return_index=True)[1]]
    inner = inner[cKDTree(mesh.points_blank[rim]).query(mesh.points_blank[inner])[0] > side / 2]
    chosen = np.unique(np.concatenate([rim, inner]))
    points = mesh.points_blank[chosen]
    rows = [np.searchsorted(chosen, ring) for ring in rings]
    edges = np.vstack([np.column_stack([row, np.roll(row, -1)]) for row in rows])
    triangles = _anticlockwise(points, Delaunay(points).simplices)
    triangles = with_edges(points, triangles, edges[_missing(edges, triangles, len(points))])
    blank = shapely.Polygon()
    for row in rows:
        blank = blank.symmetric_difference(shapely.make_valid(shapely.Polygon(points[row])))
    shapely.prepare(blank)
    triangles = triangles[shapely.contains_xy(blank, *points[triangles].mean(axis=1).T)]
    if len(triangles) >= len(mesh.triangles) or _missing(edges, triangles, len(points)).any():
        return mesh
    used, triangles = np.unique(triangles, return_inverse=True)
    return FoldMesh(points[used], mesh.points_form[chosen][used], triangles.reshape(-1, 3))


def _missing(edges: np.ndarray, triangles: np.ndarray, count: int) -> np.ndarray:
    """Which of the edges (k, 2) are not those of the triangles, over so many points."""
    return ~np.isin(edge_keys(edges, count), edge_keys(half_edges(triangles), count))


def _kept(mesh: FoldMesh, ring: np.ndarray, side: float) -> np.ndarray:
    """Which points of a rim stay: where it turns, and else about one every ``side`` mm."""
    points = mesh.points_blank[ring]
    came, goes = points - np.roll(points, 1, axis=0), np.roll(points, -1, axis=0) - points
    turn = np.abs(np.arctan2(came[:, 0] * goes[:, 1] - came[:, 1] * goes[:, 0], (came * goes).sum(axis=1)))
    along = np.floor(np.concatenate([[0.0], np.cumsum(np.linalg.norm(goes, axis=1))[:-1]]) / side)
    keep = np.concatenate([[True], np.diff(along) > 0]) | (turn > max(TURN, 4 * float(np.median(turn))))
    return keep if keep.sum() > 2 else np.ones(len(ring), bool)


def _anticlockwise(points: Array, triangles: np.ndarray) -> np.ndarray:
    """Triangles (t, 3) that run anticlockwise, without those that have no area."""
    double = signed_double_areas(points, triangles)
    made = np.where((double < 0)[:, None], triangles[:, [0, 2, 1]], triangles)
    return np.asarray(made[double != 0])
