"""Triangles each laid flat by itself: what a map of them to the plane is measured by."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import sparse

from ..errors import CannotBeDone
from ..geometry.curves import Array


@dataclass(frozen=True)
class Metric:
    """The triangles (t, 3) each laid flat by itself: areas (t,) and the gradient operators.

    ``gradient_x`` and ``gradient_y`` (t, n) give the derivatives of a function of the points in each
    triangle's own x and y.
    """

    triangles: np.ndarray
    areas: Array
    gradient_x: sparse.csr_matrix
    gradient_y: sparse.csr_matrix

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
        slope_x = np.stack([-1 / along, 1 / along, 0 * along], axis=1)
        slope_y = np.stack([(x / along - 1) / y, -x / along / y, 1 / y], axis=1)
        rows = np.repeat(np.arange(len(triangles)), 3)
        shape = (len(triangles), len(points_form))
        columns = triangles.ravel()
        return Metric(
            triangles,
            along * y / 2,
            sparse.csr_matrix((slope_x.ravel(), (rows, columns)), shape),
            sparse.csr_matrix((slope_y.ravel(), (rows, columns)), shape),
        )

    def jacobians(self, points_blank: Array) -> Array:
        """The linear maps (t, 2, 2) from each flat triangle to the blank."""
        return np.stack([self.gradient_x @ points_blank, self.gradient_y @ points_blank], axis=2)

    def laplacian(self) -> sparse.csc_matrix:
        """The stiffness (n, n) of a membrane, with an entry for every edge.

        Those that are zero, as across right angles, count for the order in which points are best eliminated.
        """
        x, y = (gradient.data.reshape(-1, 3) for gradient in (self.gradient_x, self.gradient_y))
        entries = self.areas[:, None, None] * (x[:, :, None] * x[:, None, :] + y[:, :, None] * y[:, None, :])
        corners = self.gradient_x.indices.reshape(-1, 3)  # in their order there
        rows, columns = np.repeat(corners, 3, axis=1), np.tile(corners, (1, 3))
        n = self.gradient_x.shape[1]
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
