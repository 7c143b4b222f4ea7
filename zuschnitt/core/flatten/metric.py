"""Triangles each laid flat by itself: what a map of them to the plane is measured by."""

from __future__ import annotations

from functools import cached_property

import numpy as np
from scipy import sparse

from ..errors import CannotBeDone
from ..geometry.curves import Array
from ..record import record


@record
class Metric:
    """The triangles (t, 3) each laid flat by itself: areas (t,) and the operator of gradients.

    ``gradient`` (2 t, n) gives the derivatives of a function of the points in each triangle's own x and y, in turn.
    """

    triangles: np.ndarray
    areas: Array
    gradient: sparse.csr_matrix

    @staticmethod
    def of(points_form: Array, triangles: np.ndarray) -> Metric:
        a, b, c = (points_form[triangles[:, k]] for k in range(3))
        along = np.linalg.norm(b - a, axis=1)
        x_axis = (b - a) / along[:, None]
        x = np.einsum("ij,ij->i", c - a, x_axis)
        y = np.linalg.norm(c - a - x[:, None] * x_axis, axis=1)
        if not (along * y > 0).all():
            raise CannotBeDone("The triangles of the faces include some without area; choose another triangle size.")
        # gradients of the three hat functions in the triangle (0, 0), (along, 0), (x, y)
        slopes = np.empty((len(triangles), 2, 3))
        slopes[:, 0] = np.stack([-1 / along, 1 / along, 0 * along], axis=1)
        slopes[:, 1] = np.stack([(x / along - 1) / y, -x / along / y, 1 / y], axis=1)
        columns = np.repeat(triangles.astype(np.int32), 2, axis=0)
        ends = np.arange(0, columns.size + 1, 3, dtype=np.int32)
        shape = (2 * len(triangles), len(points_form))
        return Metric(triangles, along * y / 2, sparse.csr_matrix((slopes.ravel(), columns.ravel(), ends), shape))

    @cached_property
    def divergence(self) -> sparse.csc_matrix:
        """The operator (n, 2 t) that gathers at the points what lies on the triangles, by their areas."""
        weighted = self.gradient.data * np.repeat(self.areas, 6)
        return sparse.csr_matrix((weighted, self.gradient.indices, self.gradient.indptr), self.gradient.shape).T

    @cached_property
    def interleaved(self) -> sparse.csr_matrix:
        """The operator (4 t, 2 n) from coordinates, x and y of each point in turn, to the entries of the maps."""
        entries = self.gradient.tocoo()
        triangle, along = np.divmod(entries.row, 2)
        rows = np.concatenate([4 * triangle + 2 * coordinate + along for coordinate in (0, 1)])
        columns = np.concatenate([2 * entries.col + coordinate for coordinate in (0, 1)])
        shape = (2 * self.gradient.shape[0], 2 * self.gradient.shape[1])
        return sparse.csr_matrix((np.tile(entries.data, 2), (rows, columns)), shape)

    def jacobians(self, points_blank: Array) -> Array:
        """The linear maps (t, 2, 2) from each flat triangle to the blank."""
        return (self.gradient @ points_blank).reshape(-1, 2, 2).transpose(0, 2, 1)

    def gathered(self, maps: Array) -> Array:
        """At each point (n, 2) what maps (t, 2, 2) of the triangles come to: for its own jacobians, the stiffness
        of the membrane times the points."""
        return self.divergence @ maps.transpose(0, 2, 1).reshape(-1, 2)

    def laplacian(self) -> sparse.csc_matrix:
        """The stiffness (n, n) of a membrane, with an entry for every edge.

        Those that are zero, as across right angles, count for the order in which points are best eliminated.
        """
        slopes = self.gradient.data.reshape(-1, 2, 3)
        entries = self.areas[:, None, None] * np.einsum("tai,taj->tij", slopes, slopes)
        rows, columns = np.repeat(self.triangles, 3, axis=1), np.tile(self.triangles, (1, 3))
        n = self.gradient.shape[1]
        return sparse.coo_matrix((entries.ravel(), (rows.ravel(), columns.ravel())), shape=(n, n)).tocsc()

    def energy(self, points_blank: Array) -> float:
        """The isometric energy: sum of area times ((s1 - 1)² + (s2 - 1)²), s the singular values."""
        return float((self.areas * ((singular_values(self.jacobians(points_blank)) - 1) ** 2).sum(1)).sum())


def singular_values(jacobians: Array) -> Array:
    """Singular values (t, 2) of 2 x 2 matrices, the larger first; the smaller one signed.

    It is negative where the matrix mirrors, so that a flipped triangle costs energy.
    """
    (a, b), (c, d) = jacobians[:, 0].T, jacobians[:, 1].T
    turning, mirroring = np.hypot(a + d, c - b) / 2, np.hypot(a - d, c + b) / 2
    return np.stack([turning + mirroring, turning - mirroring], axis=1)
