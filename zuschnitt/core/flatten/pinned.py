"""Sparse factors of Laplacians; the order in which points are eliminated is found once and used again."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy import sparse
from scipy.sparse.csgraph import reverse_cuthill_mckee
from scipy.sparse.linalg import splu

from ..geometry.curves import Array

SYMMETRIC: dict[str, Any] = {"diag_pivot_thresh": 0.0, "options": {"SymmetricMode": True}}


@dataclass(frozen=True)
class Pinned:
    """A factor of a Laplacian whose null space is removed by holding the first point.

    ``band`` (n - 1,) is how the factor numbers the others; ``order`` (n,) are all points as they are best
    eliminated, the first point at the end.
    """

    factor: Any
    band: np.ndarray
    order: np.ndarray

    @staticmethod
    def of(laplacian: sparse.csc_matrix) -> Pinned:
        free = laplacian[1:, 1:].tocsr()
        # minimum degree goes badly astray on some numberings, such as those of subdivided meshes, so not on theirs
        band = reverse_cuthill_mckee(free, symmetric_mode=True)
        factor = splu(free[band][:, band].tocsc(), permc_spec="MMD_AT_PLUS_A", **SYMMETRIC)
        return Pinned(factor, band, np.r_[band[np.argsort(factor.perm_c)] + 1, 0])

    def solve(self, right: Array) -> Array:
        """The solution (n, k) that is zero at the first point."""
        result = np.zeros(right.shape)
        result[self.band + 1] = self.factor.solve(right[self.band + 1])
        return result


def solved_in_order(matrix: sparse.csc_matrix, free: np.ndarray, right: Array) -> Array:
    """Solves for the points ``free`` (m,), eliminated in just that order. ``right`` (m,)."""
    factor = splu(matrix[free][:, free].tocsc(), permc_spec="NATURAL", **SYMMETRIC)
    return factor.solve(right)
