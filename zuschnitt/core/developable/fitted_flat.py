"""Any nearly developable face laid flat: a smooth map fitted so that it keeps lengths.

The flat is a tensor spline over the parameters. Its Jacobian is driven to a rotation at Gauss points by
Gauss-Newton steps; for a developable face the residual vanishes, and with it all error but that of the
spline. What remains for other faces is how far they are from developable.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property, partial
from typing import TYPE_CHECKING

import numpy as np

from ..geometry.curves import Array
from ..geometry.ruled_flat import FlatMap, stretches
from ..geometry.surfaces import Surface
from ..lazy import Lazy
from ..record import record

if TYPE_CHECKING:
    from scipy.interpolate import NdBSpline
    from scipy.sparse import csr_matrix
    from scipy.sparse.linalg import SuperLU

Breaks = tuple[Array, ...]
SMOOTH: Breaks = (np.zeros(0), np.zeros(0))
Start = Callable[[Array, Array], Array]
DEGREE = 5
SPANS = (4, 7, 14, 28)
"""Spans of the spline along each parameter, at least, one after the other."""
SECOND, WILD = 7, 0.5
"""Where so many spans leave more stretch than this, more of them find no flat either."""
FIRST, ENOUGH = 14, 1e-6
"""So many at least are taken, and no more where that leaves no more stretch than this."""
MOST_BREAKS = 40
"""Of more softer breaks than this along a parameter none is followed."""
REMAINS = 0.7
"""Where a finer spline leaves more than this part of the stretch, it may be the face's own."""
FINE, OF_CURVATURE = 1e-8, 0.3
"""A stretch of no more than this, or than this part of the total curvature, is not that of the spline."""
STEPS = 60
ARRIVED, ARRIVED_OF_STRAIN = 1e-11, 1e-5
"""A step that moves no point by more than this part of the face, or of it by so much of the strain, is the last."""
SLOW = 0.1
"""A step larger than this part of the one before asks for a new factor."""
COARSE = 49
"""Places of the map that it starts from, along each parameter."""
INSET = 0.02
"""The start keeps this part of the box away from its sides, where a side may be a single point."""


@record
class SplineFlat(Lazy, FlatMap):
    """``coefficients`` (nu, nv, 2) of a tensor spline of degree 5 over ``knots_u`` and ``knots_v``."""

    knots_u: Array
    knots_v: Array
    coefficients: Array

    @cached_property
    def _spline(self) -> NdBSpline:
        from scipy.interpolate import NdBSpline

        return NdBSpline((self.knots_u, self.knots_v), self.coefficients, DEGREE)

    @property
    def _box(self) -> Array:
        return np.array([[k[DEGREE], k[-DEGREE - 1]] for k in (self.knots_u, self.knots_v)]).T

    def to_plane(self, uv: Array) -> Array:
        return self._carried(np.asarray(uv, float))[0]

    def derivatives(self, uv: Array) -> tuple[Array, Array]:
        return self._carried(np.asarray(uv, float))[1:]

    def _carried(self, uv: Array) -> tuple[Array, Array, Array]:
        """Points and both tangents (n, 2); beyond the box along the tangents at its side."""
        low, high = self._box
        within = np.clip(uv, low, high)
        value = self._spline(within)
        du, dv = self._spline(within, nu=(1, 0)), self._spline(within, nu=(0, 1))
        beyond = uv - within
        return value + beyond[:, :1] * du + beyond[:, 1:] * dv, du, dv

    def interpolated(self, knots_u: Array, knots_v: Array) -> Array:
        """Coefficients (n, 2) over other knots of nearly the same map."""
        from scipy.interpolate import make_interp_spline

        u, v = _places(knots_u), _places(knots_v)
        values = self._carried(np.stack(np.meshgrid(u, v, indexing="ij"), axis=-1).reshape(-1, 2))[0]
        along = make_interp_spline(u, values.reshape(len(u), len(v), 2), DEGREE, t=knots_u).c
        return make_interp_spline(v, along.transpose(1, 0, 2), DEGREE, t=knots_v).c.transpose(1, 0, 2).reshape(-1, 2)

    @cached_property
    def _seeds(self):
        from scipy.spatial import cKDTree

        low, high = self._box
        grid = np.stack(np.meshgrid(*np.linspace(low, high, 65).T, indexing="ij"), axis=-1).reshape(-1, 2)
        return cKDTree(self._carried(grid)[0]), grid

    def from_plane(self, xy: Array) -> Array:
        tree, grid = self._seeds
        uv = grid[tree.query(xy)[1]]
        low, high = self._box
        for _ in range(25):
            here, du, dv = self._carried(uv)
            gap = xy - here
            det = du[:, 0] * dv[:, 1] - du[:, 1] * dv[:, 0]
            det = np.where(np.abs(det) < 1e-14, np.inf, det)
            step = np.stack([
                (gap[:, 0] * dv[:, 1] - gap[:, 1] * dv[:, 0]) / det,
                (du[:, 0] * gap[:, 1] - du[:, 1] * gap[:, 0]) / det,
            ], axis=1)  # fmt: skip
            uv = uv + np.clip(step, (low - high) / 8, (high - low) / 8)
            if np.abs(step / (high - low)).max(initial=0.0) < 1e-14:
                break
        return uv


def total_curvature(surface: Surface, box: Array) -> float:
    """The integral of the absolute Gauss curvature over a box of parameters, in radians."""
    low, high = box
    width = high - low
    grid = low + width * (np.stack(np.meshgrid(*2 * [np.arange(16)], indexing="ij"), -1).reshape(-1, 2) + 0.5) / 16
    normal = surface.normals(grid)
    along, across = (surface.normals(grid + h) - surface.normals(grid - h) for h in np.diag(width) * 1e-4)
    turned = (np.cross(along, across) * normal).sum(axis=1)
    return float(np.abs(turned).sum() / (2e-4) ** 2 / 256)


def fitted_flat(surface: Surface, box: Array, breaks: Breaks = SMOOTH, softer: Breaks = SMOOTH) -> SplineFlat:
    """The flat of a surface over ``box`` ((2, 2): low, high) that keeps lengths as well as can be.

    ``breaks`` are inner parameters in u and v where the surface is less than twice smooth, ``softer`` those where it
    is no smoother than that. The spline is refined as long as that takes away from the stretch; it follows the softer
    ones too where they may be what is left of it.
    """
    own = OF_CURVATURE * total_curvature(surface, box)
    made = None
    for spans in SPANS:
        start = partial(_start, surface, box) if made is None else made.interpolated
        finer = _fitted(surface, box, breaks, spans, start)
        if made is not None and REMAINS * made.error < finer.error <= own:
            made = min(made, finer, key=lambda flat: flat.error)
            break
        made = finer
        if (spans >= FIRST and made.error <= max(ENOUGH, own)) or (spans >= SECOND and made.error > WILD):
            break
    assert made is not None
    inner = [each[(each > low) & (each < high)] for each, low, high in zip(softer, *box, strict=True)]
    if any(map(len, inner)) and WILD >= made.error > max(FINE, own):
        followed = [each if len(each) <= MOST_BREAKS else each[:0] for each in inner]
        spans = FIRST if [*map(len, followed)] == [*map(len, inner)] else SPANS[-1]
        every = tuple(np.union1d(*each) for each in zip(breaks, followed, strict=True))
        made = min(made, _fitted(surface, box, every, spans, made.interpolated), key=lambda flat: flat.error)
    return made


def _fitted(surface: Surface, box: Array, breaks: Breaks, spans: int, start: Start) -> SplineFlat:
    """The best spline of so many spans along each parameter, from coefficients that ``start`` gives for its knots."""
    from scipy.sparse import kron

    axes = [_axis(box[0, k], box[1, k], breaks[k], spans) for k in (0, 1)]
    (knots_u, u, weight_u, value_u, slope_u), (knots_v, v, weight_v, value_v, slope_v) = axes
    uv = np.stack(np.meshgrid(u, v, indexing="ij"), axis=-1).reshape(-1, 2)
    du, dv = surface.derivatives(uv)
    e = np.linalg.norm(du, axis=1)
    x = du / np.maximum(e, 1e-300)[:, None]
    f = (dv * x).sum(axis=1)
    g = np.linalg.norm(dv - f[:, None] * x, axis=1)
    tiny = 1e-9 * max(e.max(), g.max())
    weight = np.sqrt(np.outer(weight_u, weight_v).ravel() * e * g)
    weight[(e < tiny) | (g < tiny)] = 0.0
    e, g = np.maximum(e, tiny), np.maximum(g, tiny)
    tie = _collapsed(surface, box, value_u.shape[1], value_v.shape[1])
    along_u = kron(slope_u, value_v).tocsr() @ tie
    along_v = kron(value_u, slope_v).tocsr() @ tie
    first = _scaled(along_u, weight / e)
    second = _scaled((along_v - _scaled(along_u, f / e)).tocsr(), weight / g)
    free = np.asarray(tie.sum(axis=0)).ravel()
    c = (tie.T @ start(knots_u, knots_v)) / free[:, None]
    held = int(weight.argmax())
    factor, before = None, np.inf
    for _ in range(STEPS):
        j0, j1 = first @ c, second @ c  # columns of the Jacobian on the face, weighted
        cosine, sine = j0[:, 0] + j1[:, 1], j0[:, 1] - j1[:, 0]
        size = np.maximum(np.hypot(cosine, sine), 1e-300)
        cosine, sine = cosine / size, sine / size
        if factor is None:
            factor = _factor(first, second, cosine, sine, held)
        along = weight - cosine * j0[:, 0] - sine * j0[:, 1]
        across = weight + sine * j1[:, 0] - cosine * j1[:, 1]
        shear = (sine * j0[:, 0] - cosine * j0[:, 1] - cosine * j1[:, 0] - sine * j1[:, 1]) / 2
        slope = np.concatenate([
            first.T @ (cosine * along - sine * shear) + second.T @ (cosine * shear - sine * across),
            first.T @ (sine * along + cosine * shear) + second.T @ (sine * shear + cosine * across),
        ])  # fmt: skip
        step = factor.solve(slope)
        moved = float(np.abs(step).max() / np.abs(c).max())
        c = c + step.reshape(2, -1).T
        strain = np.linalg.norm([along, across, shear]) / np.linalg.norm(weight)
        if moved < ARRIVED + ARRIVED_OF_STRAIN * strain:
            break
        if moved > SLOW * before:
            factor = None
        before = moved
    coefficients = (tie @ c).reshape(value_u.shape[1], value_v.shape[1], 2)
    made = SplineFlat(0.0, knots_u, knots_v, coefficients)
    inner = box[0] + (box[1] - box[0]) * (np.stack(np.meshgrid(*2 * [np.arange(41)], indexing="ij"), -1) + 0.5) / 41
    error = float(np.abs(stretches(surface, made, inner.reshape(-1, 2))).max())
    return SplineFlat(error, knots_u, knots_v, coefficients)


def _factor(first: csr_matrix, second: csr_matrix, cosine: Array, sine: Array, held: int) -> SuperLU:
    """The stiffness of the strains, R^T J - I in its symmetric part, while the rotations R stand still."""
    from scipy.sparse import hstack, identity, vstack
    from scipy.sparse.linalg import splu

    rows = [
        hstack([_scaled(first, cosine), _scaled(first, sine)]),
        hstack([_scaled(second, -sine), _scaled(second, cosine)]),
        hstack([_scaled(second, cosine) - _scaled(first, sine), _scaled(second, sine) + _scaled(first, cosine)])
        * np.sqrt(0.5),
        # turning as a whole costs next to nothing, so one point's turning is held
        hstack([second[held] * cosine[held] + first[held] * sine[held],
                second[held] * sine[held] - first[held] * cosine[held]]),
    ]  # fmt: skip
    matrix = vstack(rows).tocsr()
    normal = (matrix.T @ matrix).tocsc()
    damp = 1e-10 * normal.diagonal().mean()
    return splu((normal + damp * identity(normal.shape[0])).tocsc())


def _scaled(matrix: csr_matrix, by: Array) -> csr_matrix:
    """Each row of a matrix times a number of its own."""
    from scipy.sparse import csr_matrix

    data = matrix.data * np.repeat(by, np.diff(matrix.indptr))
    return csr_matrix((data, matrix.indices, matrix.indptr), matrix.shape)


def _axis(low: float, high: float, breaks: Array, spans: int):
    """Knots, Gauss points, their weights, and the basis and its slope there (sparse)."""
    from scipy.interpolate import BSpline

    inner = breaks[(breaks > low) & (breaks < high)]
    places = np.unique(np.r_[np.linspace(low, high, spans + 1), inner])
    places = places[np.r_[True, np.diff(places) > 1e-6 * (high - low)]]
    places[-1] = high
    # at a break of the surface the flat may be as little smooth as the surface: C2 there
    repeated = np.isin(places[1:-1], inner)
    knots = np.r_[[low] * (DEGREE + 1), np.sort(np.r_[places[1:-1], places[1:-1][repeated], places[1:-1][repeated]]),
                  [high] * (DEGREE + 1)]  # fmt: skip
    node, share = np.polynomial.legendre.leggauss(5)
    half = np.diff(places) / 2
    t = (places[:-1, None] + half[:, None] * (node + 1)).ravel()
    weights = (half[:, None] * share).ravel()
    value = BSpline.design_matrix(t, knots, DEGREE)
    count = len(knots) - DEGREE - 1
    slope = BSpline(knots, np.eye(count), DEGREE).derivative()(t)
    slope[np.abs(slope) < 1e-14] = 0
    from scipy.sparse import csr_matrix

    return knots, t, weights, csr_matrix(value), csr_matrix(slope)


def _collapsed(surface: Surface, box: Array, count_u: int, count_v: int) -> csr_matrix:
    """Which coefficients are one and the same: a side of the box that is a single point of the form stays one."""
    from scipy.sparse import csr_matrix

    number = np.arange(count_u * count_v).reshape(count_u, count_v)
    size = np.linalg.norm(np.ptp(surface.evaluate(_box_points(box)), axis=0))
    for axis in (0, 1):
        for end, index in ((0, 0), (1, -1)):
            side = np.linspace(box[0], box[1], 9)
            side[:, axis] = box[end, axis]
            if np.ptp(surface.evaluate(side), axis=0).max() < 1e-9 * size:
                line = number[index] if axis == 0 else number[:, index]
                line[:] = line[0]
    _, column = np.unique(number.ravel(), return_inverse=True)
    rows = np.arange(number.size)
    return csr_matrix((np.ones(number.size), (rows, column)), (number.size, int(column.max()) + 1))


def _box_points(box: Array) -> Array:
    return np.stack(np.meshgrid(*np.linspace(box[0], box[1], 9).T, indexing="ij"), axis=-1).reshape(-1, 2)


def _start(surface: Surface, box: Array, knots_u: Array, knots_v: Array) -> Array:
    """Coefficients (n, 2) of a spline through a coarse map of the face: unrolled, or where that folds relaxed flat."""
    from scipy.interpolate import make_lsq_spline

    inset = (box[1] - box[0]) * INSET
    ticks = np.linspace(box[0] + inset, box[1] - inset, COARSE)
    flat = _unrolled(surface, ticks)
    if flat is None:
        flat = _relaxed(surface, ticks)
    coarse = [np.r_[[k[0]] * 4, np.linspace(k[0], k[-1], 14)[1:-1], [k[-1]] * 4] for k in (knots_u, knots_v)]
    rows = make_lsq_spline(ticks[:, 0], flat, coarse[0], 3)
    across = make_lsq_spline(ticks[:, 1], rows(_places(knots_u)).transpose(1, 0, 2), coarse[1], 3)
    return across(_places(knots_v)).transpose(1, 0, 2).reshape(-1, 2)


def _places(knots: Array) -> Array:
    """Where each coefficient of a spline has its place (Greville)."""
    means = np.array([knots[j + 1 : j + DEGREE + 1].mean() for j in range(len(knots) - DEGREE - 1)])
    return np.clip(means, knots[0], knots[-1])


def _unrolled(surface: Surface, ticks: Array) -> Array | None:
    """The places (n, n, 2) of a grid of parameters (n, 2), each isoline bent in the plane as much as on the face.

    First the one in the middle along u, then from it those along v: exact for developable faces but for the sums.
    None where the map folds, as on faces that are far from developable.
    """
    from scipy.interpolate import CubicSpline

    u, v = ticks.T
    grid = np.stack(np.meshgrid(u, v, indexing="ij"), axis=-1).reshape(-1, 2)
    du, dv = (each.reshape(len(u), len(v), 3) for each in surface.derivatives(grid))
    normal = np.cross(du, dv)
    normal /= np.maximum(np.linalg.norm(normal, axis=-1, keepdims=True), 1e-300)

    def bent(along: Array, normal: Array, t: Array) -> tuple[Array, Array]:
        """Speed and turning, from the first place on, of isolines (n, ..., 3) along their first axis."""
        speed = np.linalg.norm(along, axis=-1)
        tangent = along / np.maximum(speed, 1e-300)[..., None]
        turning = (CubicSpline(t, tangent)(t, 1) * np.cross(normal, tangent)).sum(axis=-1)
        return speed, CubicSpline(t, turning).antiderivative()(t)

    def drawn(speed: Array, angle: Array, t: Array) -> Array:
        way = CubicSpline(t, speed[..., None] * np.stack([np.cos(angle), np.sin(angle)], axis=-1))
        return np.asarray(way.antiderivative()(t))

    middle = len(v) // 2
    speed, angle = bent(du[:, middle], normal[:, middle], u)
    spine = drawn(speed, angle, u)
    between = np.arctan2(
        (np.cross(du[:, middle], dv[:, middle]) * normal[:, middle]).sum(axis=-1),
        (du[:, middle] * dv[:, middle]).sum(axis=-1),
    )
    speeds, angles = bent(dv.transpose(1, 0, 2), normal.transpose(1, 0, 2), v)
    ways = drawn(speeds, angles - angles[middle] + angle + between, v)
    flat = (ways - ways[middle] + spine).transpose(1, 0, 2)
    a, b, c = flat[:-1, :-1], flat[1:, :-1], flat[:-1, 1:]
    folds = (b - a)[..., 0] * (c - a)[..., 1] - (b - a)[..., 1] * (c - a)[..., 0] <= 0
    return None if folds.any() else flat


def _relaxed(surface: Surface, ticks: Array) -> Array:
    """The places (n, n, 2) of a grid of parameters (n, 2), relaxed flat."""
    from ..flatten.relaxed import relax

    n = len(ticks)
    grid = np.stack(np.meshgrid(*ticks.T, indexing="ij"), axis=-1).reshape(-1, 2)
    i = np.arange(n * n).reshape(n, n)
    a, b, c, d = i[:-1, :-1].ravel(), i[1:, :-1].ravel(), i[1:, 1:].ravel(), i[:-1, 1:].ravel()
    triangles = np.concatenate([np.stack([a, b, c], axis=1), np.stack([a, c, d], axis=1)])
    flat = relax(surface.evaluate(grid), triangles, most_steps=200, converged=1e-7).points_blank
    return flat.reshape(n, n, 2)
