"""Relaxed development: the flat of a doubly curved mesh with the least distortion of lengths.

Starts from the chart of a face, the view of a shallow mesh, a conformal map (Lévy et al., Least
squares conformal maps, 2002) or, where that folds, Tutte's embedding on a circle (1963). Then
local/global steps on the isometric energy (Liu et al., A local/global approach to mesh
parameterization, 2008), with a step length that never lets a triangle flip (Smith and Schaefer,
Bijective parameterization with free boundaries, 2015, section 3.3) and Anderson acceleration (Peng et
al., Anderson acceleration for geometry optimization, 2018).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import sparse
from scipy.sparse.linalg import splu

from ..errors import CannotBeDone
from ..form.curves import Array
from ..progress import SILENT, Progress
from ..triangles import boundary_rings, signed_double_areas

WINDOW = 5
"""How many earlier steps Anderson acceleration looks back on."""
STEEPEST = 0.15
"""Sine of the angle under which a triangle must at least be seen, to start from the view of the mesh."""


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
        weight = sparse.diags(self.areas)
        return sparse.csc_matrix(
            self.gradient_x.T @ weight @ self.gradient_x + self.gradient_y.T @ weight @ self.gradient_y
        )

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


def _rotations(jacobians: Array) -> Array:
    cosine = jacobians[:, 0, 0] + jacobians[:, 1, 1]
    sine = jacobians[:, 1, 0] - jacobians[:, 0, 1]
    size = np.maximum(np.hypot(cosine, sine), 1e-300)
    cosine, sine = cosine / size, sine / size
    return np.stack([np.stack([cosine, -sine], 1), np.stack([sine, cosine], 1)], axis=1)


@dataclass(frozen=True)
class Relaxed:
    """``points_blank`` (n, 2), the isometric ``energy`` reached, and the steps it took."""

    points_blank: Array
    energy: float
    steps: int


def relax(
    points_form: Array,
    triangles: np.ndarray,
    start: Array | None = None,
    most_steps: int = 300,
    settled: float = 1e-6,
    goal: float | None = None,
    progress: Progress = SILENT,
) -> Relaxed:
    """Develops a mesh that is one connected sheet with a boundary.

    ``points_form`` (n, 3) in mm; ``triangles`` (t, 3) anticlockwise seen from outside; ``start`` (n, 2)
    an embedding without flips, if one is known. Stops when a step gains less than ``settled`` of the
    energy, at ``most_steps``, or once the energy is not above ``goal``.
    Raises CannotBeDone for a closed mesh.
    """
    metric = Metric.of(points_form, triangles)
    laplacian = metric.laplacian()
    if start is None or (signed_double_areas(start, triangles) <= 0).any():
        progress.step(0.0, "looking for a start")
        start = seen_flat(points_form, triangles)
    if start is None:
        start = conformal(metric, laplacian)
        if (signed_double_areas(start, triangles) <= 0).any():
            start = on_circle(points_form, triangles)
    progress.step(0.2, "factorising")
    solve = _pinned(laplacian)
    areas = metric.areas[:, None]

    def local_global(points: Array) -> tuple[Array, float]:
        jacobians = metric.jacobians(points)
        rotations = _rotations(jacobians)
        energy = float((metric.areas * ((jacobians - rotations) ** 2).sum(axis=(1, 2))).sum())
        moved = solve(
            metric.gradient_x.T @ (areas * rotations[:, :, 0]) + metric.gradient_y.T @ (areas * rotations[:, :, 1])
        )
        return moved + (points.mean(axis=0) - moved.mean(axis=0)), energy

    points = _balanced(metric, start)
    target, energy = local_global(points)
    history: list[tuple[Array, Array]] = []
    steps = 0
    for steps in range(1, most_steps + 1):
        proposal = _accelerated(history, points, target)
        moved = points + _longest_step(points, proposal - points, triangles) * (proposal - points)
        new_target, new_energy = local_global(moved)
        if not new_energy <= energy:  # the accelerated step was too bold: the plain one always gains
            history.clear()
            moved = points + _longest_step(points, target - points, triangles) * (target - points)
            new_target, new_energy = local_global(moved)
        gained = energy - new_energy
        points, target, energy = moved, new_target, new_energy
        progress.step(0.3 + 0.7 * steps / (steps + 15), "relaxing")
        if goal is not None and energy <= goal:
            break
        if gained <= settled * energy or energy <= 1e-13 * metric.areas.sum():
            break
    return Relaxed(points, energy, steps)


def _accelerated(history: list[tuple[Array, Array]], points: Array, target: Array) -> Array:
    """Anderson's mix of the last steps; ``history`` holds (residual, target) of each."""
    history.append((target - points, target))
    del history[: -WINDOW - 1]
    if len(history) < 2:
        return target
    residuals = np.stack([residual.ravel() for residual, _ in history])
    targets = np.stack([earlier.ravel() for _, earlier in history])
    change = residuals[-1] - residuals[:-1]
    gram = change @ change.T
    gram[np.diag_indices_from(gram)] *= 1 + 1e-10
    try:
        mix = np.linalg.solve(gram, change @ residuals[-1])
    except np.linalg.LinAlgError:
        return target
    return (targets[-1] - mix @ (targets[-1] - targets[:-1])).reshape(points.shape)


def _longest_step(points: Array, direction: Array, triangles: np.ndarray) -> float:
    """The longest step, at most 1, along ``direction`` after which no triangle is flipped."""
    p, d = points[triangles], direction[triangles]
    e1, e2 = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]
    f1, f2 = d[:, 1] - d[:, 0], d[:, 2] - d[:, 0]
    # twice the area along the step is c + b t + a t²
    a = f1[:, 0] * f2[:, 1] - f1[:, 1] * f2[:, 0]
    b = e1[:, 0] * f2[:, 1] - e1[:, 1] * f2[:, 0] + f1[:, 0] * e2[:, 1] - f1[:, 1] * e2[:, 0]
    c = e1[:, 0] * e2[:, 1] - e1[:, 1] * e2[:, 0]
    risk = np.nonzero(c - np.abs(b) - np.abs(a) <= 0)[0]
    if not len(risk):
        return 1.0
    a, b, c = a[risk], b[risk], c[risk]
    root = np.sqrt(np.maximum(b * b - 4 * a * c, 0))
    # 2 c / (-b ± root) are both roots, without cancellation; c > 0
    with np.errstate(divide="ignore", invalid="ignore"):
        candidates = np.stack([2 * c / (-b + root), 2 * c / (-b - root)])
    real = (b * b >= 4 * a * c) & np.isfinite(candidates) & (candidates > 0)
    first = np.where(real, candidates, np.inf).min()
    return min(1.0, 0.9 * float(first))


def _pinned(matrix: sparse.csc_matrix):
    """A solver for a Laplacian: its null space is removed by holding the first point."""
    factor = splu(
        matrix[1:, 1:].tocsc(),
        permc_spec="MMD_AT_PLUS_A",
        diag_pivot_thresh=0.0,
        options={"SymmetricMode": True},
    )

    def solve(right: Array) -> Array:
        return np.vstack([np.zeros((1, right.shape[1])), factor.solve(right[1:])])

    return solve


def _balanced(metric: Metric, points: Array) -> Array:
    """Scaled so that the blank has the area of the form."""
    area = signed_double_areas(points, metric.triangles).sum() / 2
    return (points - points.mean(axis=0)) * np.sqrt(metric.areas.sum() / area)


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


def conformal(metric: Metric, laplacian: sparse.csc_matrix) -> Array:
    """Least squares conformal map (n, 2), two far points of the boundary held."""
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
    free = np.setdiff1d(np.arange(n), held)
    factor = splu(
        energy[free][:, free].tocsc(),
        permc_spec="MMD_AT_PLUS_A",
        diag_pivot_thresh=0.0,
        options={"SymmetricMode": True},
    )
    z = np.zeros(n, complex)
    z[held] = values
    z[free] = factor.solve(-energy[free][:, held] @ values)
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
