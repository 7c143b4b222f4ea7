"""Sparse factors of Laplacians; the order in which points are eliminated is found once and used again."""

from __future__ import annotations

from typing import Any

import numpy as np
from scipy import sparse
from scipy.sparse.csgraph import reverse_cuthill_mckee
from scipy.sparse.linalg import splu

from ..geometry.curves import Array
from ..record import record

SYMMETRIC: dict[str, Any] = {"diag_pivot_thresh": 0.0, "panel_size": 4, "options": {"SymmetricMode": True}}
"""How a symmetric positive matrix is factored. Few columns of a mesh's factor are alike, so the panels are narrow."""


@record
class Factor:
    """A factor of a symmetric matrix; ``band`` (n,) is how it numbers the unknowns."""

    factor: Any
    band: np.ndarray

    @staticmethod
    def of(matrix: sparse.spmatrix) -> Factor:
        rows = sparse.csr_matrix(matrix)
        # minimum degree goes badly astray on some numberings, such as those of subdivided meshes, so not on theirs
        band = reverse_cuthill_mckee(rows, symmetric_mode=True)
        return Factor(splu(rows[band][:, band].tocsc(), permc_spec="MMD_AT_PLUS_A", **SYMMETRIC), band)

    @property
    def order(self) -> np.ndarray:
        """How the unknowns (n,) are best eliminated."""
        return self.band[np.argsort(self.factor.perm_c)]

    def solve(self, right: Array) -> Array:
        """The solution (n, k)."""
        result = np.zeros(right.shape)
        result[self.band] = self.factor.solve(right[self.band])
        return result


@record
class Pinned:
    """A factor of a Laplacian whose null space is removed by holding the first point.

    ``order`` (n,) are all points as they are best eliminated, the first point at the end.
    """

    free: Factor
    order: np.ndarray

    @staticmethod
    def of(laplacian: sparse.csc_matrix) -> Pinned:
        free = Factor.of(laplacian[1:, 1:])
        return Pinned(free, np.r_[free.order + 1, 0])

    def solve(self, right: Array) -> Array:
        """The solution (n, k) that is zero at the first point."""
        return np.concatenate([np.zeros((1, *right.shape[1:])), self.free.solve(right[1:])])


def solved_in_order(matrix: sparse.csc_matrix, free: np.ndarray, right: Array) -> Array:
    """Solves for the points ``free`` (m,), eliminated in just that order. ``right`` (m,)."""
    factor = splu(matrix[free][:, free].tocsc(), permc_spec="NATURAL", **SYMMETRIC)
    return factor.solve(right)
