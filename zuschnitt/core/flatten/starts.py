"""First maps of a mesh to the plane: its view, that of a coarse mesh, a conformal map (Lévy et al., Least squares
conformal maps, 2002), and Tutte's embedding on a circle (1963)."""

from __future__ import annotations

import numpy as np
from scipy import sparse
from scipy.sparse.linalg import splu

from ..errors import CannotBeDone
from ..geometry.curves import Array
from ..mesh.triangles import boundary_rings, signed_double_areas
from .coarse_start import Develop, turned_by_cells
from .metric import Metric
from .pinned import Pinned, solved_in_order

WORTHWHILE = 12_000
"""Triangles from which on a coarse mesh is a quicker start than a conformal map."""
STEEPEST = 0.15
"""Sine of the angle under which a triangle must at least be seen, to start from the view of the mesh."""


def embedded(
    points_form: Array,
    triangles: np.ndarray,
    metric: Metric,
    laplacian: sparse.csc_matrix,
    factor: Pinned,
    develop: Develop,
) -> Array:
    """A map (n, 2) of a disc-like mesh without flipped triangles: the cheapest start that has none.

    ``develop`` lays a coarse mesh flat.
    """
    start = seen_flat(points_form, triangles)
    if start is None and len(triangles) >= WORTHWHILE:
        start = turned_by_cells(points_form, triangles, metric, factor, develop)
    if start is None:
        start = conformal(metric, laplacian, factor.order)
        if (signed_double_areas(start, triangles) <= 0).any():
            start = on_circle(points_form, triangles)
    return start


def seen_flat(points_form: Array, triangles: np.ndarray) -> Array | None:
    """The mesh as seen from its outer side (n, 2), where all of it can be seen so; else None.

    That is an embedding without flips, and for a shallow patch a good and very cheap start.
    """
    a, b, c = (points_form[triangles[:, k]] for k in range(3))
    normals = np.cross(b - a, c - a)
    towards = normals.sum(axis=0)
    towards /= max(float(np.linalg.norm(towards)), 1e-300)
    if ((normals @ towards) <= STEEPEST * np.linalg.norm(normals, axis=1)).any():
        return None
    right = np.cross(towards, np.eye(3)[np.argmin(np.abs(towards))])
    right /= np.linalg.norm(right)
    return points_form @ np.stack([right, np.cross(towards, right)], axis=1)


def conformal(metric: Metric, laplacian: sparse.csc_matrix, order: np.ndarray | None = None) -> Array:
    """Least squares conformal map (n, 2), two far points of the boundary held.

    ``order`` (n,) is how the points of the Laplacian are best eliminated, if that is known.
    """
    rings = boundary_rings(metric.triangles)
    if not rings:
        raise CannotBeDone(
            "The picked faces close on themselves and have no edge to start from; "
            "leave a face out, or cut the form open along a seam first."
        )
    n = laplacian.shape[0]
    outline = np.concatenate([np.stack([ring, np.roll(ring, -1)], axis=1) for ring in rings])
    a, b = outline.T
    # The conformal energy is Dirichlet's minus the area, which is a sum round the outline. In complex
    # numbers z = x + iy both make one Hermitian matrix, half as large as the real one.
    half = np.full(len(a), 0.5j)
    cross = sparse.coo_matrix((np.r_[half, -half], (np.r_[a, b], np.r_[b, a])), (n, n))
    energy = (laplacian + cross).tocsc()
    longest = max(rings, key=len)
    held = np.array([longest[0], longest[len(longest) // 2]])
    values = np.array([0.0, 1.0 + 0j])
    order = Pinned.of(laplacian).order if order is None else order
    free = order[~np.isin(order, held)]
    z = np.zeros(n, complex)
    z[held] = values
    z[free] = solved_in_order(energy, free, -energy[free][:, held] @ values)
    points = np.stack([z.real, z.imag], axis=1)
    if signed_double_areas(points, metric.triangles).sum() < 0:
        points = points * [1, -1]
    return points


def on_circle(points_form: Array, triangles: np.ndarray) -> Array:
    """Tutte's embedding (n, 2): the longest ring on a circle, every other point amid its neighbours.

    Holes are filled by a point each while it is computed, so that no triangle flips.
    """
    rings = sorted(
        boundary_rings(triangles),
        key=lambda ring: -np.linalg.norm(np.diff(points_form[np.r_[ring, ring[:1]]], axis=0), axis=1).sum(),
    )
    n = len(points_form) + len(rings) - 1
    edges = [triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]]
    for k, ring in enumerate(rings[1:]):
        edges.append(np.stack([ring, np.full(len(ring), len(points_form) + k)], axis=1))
    i, j = np.concatenate(edges).T
    joined = sparse.coo_matrix((np.ones(2 * len(i)), (np.r_[i, j], np.r_[j, i])), (n, n)).tocsr()
    joined.data[:] = 1
    laplacian = (sparse.diags(np.asarray(joined.sum(axis=1)).ravel()) - joined).tocsc()
    outer = rings[0]
    lengths = np.linalg.norm(points_form[np.roll(outer, -1)] - points_form[outer], axis=1)
    angle = 2 * np.pi * np.r_[0, np.cumsum(lengths)[:-1]] / lengths.sum()
    result = np.zeros((n, 2))
    result[outer] = np.stack([np.cos(angle), np.sin(angle)], axis=1)
    free = np.setdiff1d(np.arange(n), outer)
    if len(free):
        right = -(laplacian[free][:, outer] @ result[outer])
        result[free] = splu(laplacian[free][:, free].tocsc()).solve(right)
    return result[: len(points_form)]
