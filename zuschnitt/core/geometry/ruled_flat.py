"""Ruled faces laid flat along their rulings.

A developable surface is swept by straight lines along each of which the tangent plane is the same. So
the turning of the rulings within that plane, and the directrix seen in it, are all that is integrated:
one integral along the face, by Chebyshev series (Trefethen, Approximation Theory and Approximation
Practice, chapter 19), and not a step over a strip of triangles. How far a face is from being
developable shows as the stretch of the result.
"""

from __future__ import annotations

from functools import cached_property
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np
from numpy.polynomial import chebyshev

from ..lazy import Lazy
from ..record import record
from .curves import Array
from .surfaces import Surface

if TYPE_CHECKING:
    from scipy.spatial import cKDTree

ORDER = 12
"""Degree of the series on each span."""
SPANS = 48
"""At least so many spans along a face."""
NO_SPAN = 1e-9
"""What is shorter than this part of a face is no span."""
ASTRAY = 1e-7
"""A point further than this, in mm, from the ruling that was found for it may lie on another one."""
AT_ONCE = 4000
"""For so many points at a time all rulings are looked at."""
DEVELOPABLE = 1e-4
"""A face whose best flat stretches by no more than this part is developable."""


@record
class FlatMap:
    """A face's parameters (n, 2) laid flat in mm (n, 2), and back. ``error`` is the largest stretch, as a part."""

    error: float

    def to_plane(self, uv: Array) -> Array:
        raise NotImplementedError

    def from_plane(self, xy: Array) -> Array:
        raise NotImplementedError

    def derivatives(self, uv: Array) -> tuple[Array, Array]:
        """The tangents (n, 2) along u and v."""
        raise NotImplementedError

    def rulings(self, count: int) -> Array:
        """Parameters (count, 2, 2) where rulings of the face begin and end; empty where they are not known."""
        return np.zeros((0, 2, 2))


@record
class RuledFlat(Lazy, FlatMap):
    """Along parameter ``axis`` lie the rulings' feet, along the other one the rulings, from ``start`` to ``end``.

    ``breaks`` (k + 1,) bound the spans; ``series`` (k, ORDER + 1, 4) hold, by Chebyshev, the foot's x and y on
    the flat, the ruling's angle, and its length in mm.
    """

    axis: int
    start: float
    end: float
    breaks: Array
    series: Array

    @cached_property
    def _terms(self) -> Array:
        """The series term by term (ORDER + 1, k, 4)."""
        return np.ascontiguousarray(np.moveaxis(self.series, 1, 0))

    def _at(self, t: Array) -> tuple[Array, Array]:
        """Values and slopes (n, 4) at parameters ``t``; beyond the ends along the last tangent."""
        within = np.clip(t, self.breaks[0], self.breaks[-1])
        span = np.clip(np.searchsorted(self.breaks, within, "right") - 1, 0, len(self.series) - 1)
        half = (self.breaks[span + 1] - self.breaks[span]) / 2
        x = (within - self.breaks[span]) / half - 1
        value, slope = _summed(self._terms, span, x)
        slope /= half[:, None]
        return value + slope * (t - within)[:, None], slope

    def to_plane(self, uv: Array) -> Array:
        value, _ = self._at(uv[:, self.axis])
        d = (uv[:, 1 - self.axis] - self.start) / (self.end - self.start) * value[:, 3]
        return value[:, :2] + d[:, None] * _direction(value[:, 2])

    def derivatives(self, uv: Array) -> tuple[Array, Array]:
        value, slope = self._at(uv[:, self.axis])
        part = ((uv[:, 1 - self.axis] - self.start) / (self.end - self.start))[:, None]
        r, across = _direction(value[:, 2]), _across(value[:, 2])
        along = slope[:, :2] + part * (slope[:, 3:] * r - value[:, 3:] * slope[:, 2:3] * across)
        ruling = value[:, 3:] * r / (self.end - self.start)
        return (along, ruling) if self.axis == 0 else (ruling, along)

    def from_plane(self, xy: Array) -> Array:
        """Newton on the one condition that the ruling passes through the point, from the nearest of many rulings.

        Where that ends on a ruling which does not reach the point, as near the tip of a fan, the others are looked at.
        """
        tree, at = self._seeds
        t = at[tree.query(xy)[1]]
        limit, tiny = (self.breaks[-1] - self.breaks[0]) / 8, 1e-13 * (self.breaks[-1] - self.breaks[0])
        for _ in range(12):
            off, rate = self._off(xy, t)
            step = off / np.where(np.abs(rate) < 1e-12, np.inf, rate)
            t = t - np.clip(step, -limit, limit)
            if np.abs(step).max(initial=0.0) < tiny:
                break
        astray = np.nonzero(self._beyond(xy, t) > ASTRAY)[0]
        for some in np.array_split(astray, max(1, len(astray) // AT_ONCE)):
            t[some] = self._bracketed(xy[some], t[some])
        value, _ = self._at(t)
        d = ((xy - value[:, :2]) * _direction(value[:, 2])).sum(axis=1)
        s = self.start + d / np.where(np.abs(value[:, 3]) < 1e-12, np.inf, value[:, 3]) * (self.end - self.start)
        return np.stack([t, s] if self.axis == 0 else [s, t], axis=1)

    def _off(self, xy: Array, t: Array) -> tuple[Array, Array]:
        """How far points (n, 2) lie beside the rulings at ``t`` (n,), and how that changes with ``t``."""
        value, slope = self._at(t)
        r, across = _direction(value[:, 2]), _across(value[:, 2])
        to = xy - value[:, :2]
        return (to * across).sum(axis=1), -(slope[:, :2] * across).sum(axis=1) + (to * r).sum(axis=1) * slope[:, 2]

    def _beyond(self, xy: Array, t: Array) -> Array:
        """How far in mm (n,) points lie from the nearest point of the rulings at ``t`` that there are."""
        value, _ = self._at(np.clip(t, self.breaks[0], self.breaks[-1]))
        to = xy - value[:, :2]
        along, aside = (to * _direction(value[:, 2])).sum(axis=1), (to * _across(value[:, 2])).sum(axis=1)
        return np.hypot(np.maximum(np.maximum(-along, along - value[:, 3]), 0.0), aside)

    def _bracketed(self, xy: Array, t: Array) -> Array:
        """The parameters of those rulings through points that come nearest to reaching them.

        Through some points beyond the tip of a fan no ruling runs: for these it is the nearest one.
        """
        grid = np.unique(np.linspace(self.breaks[:-1], self.breaks[1:], 5).ravel())
        value, _ = self._at(grid)
        off = ((xy[:, None] - value[:, :2]) * _across(value[:, 2])).sum(axis=2)
        point, span = np.nonzero((off[:, 1:] > 0) != (off[:, :-1] > 0))
        low, high, rises = grid[span], grid[span + 1], off[point, span + 1] > 0
        here = low + (high - low) * off[point, span] / (off[point, span] - off[point, span + 1])
        for _ in range(40):
            beside, rate = self._off(xy[point], here)
            if np.abs(beside).max(initial=0.0) < ASTRAY / 1e4:
                break
            above = (beside > 0) == rises
            low, high = np.where(above, low, here), np.where(above, here, high)
            by_newton = here - beside / np.where(np.abs(rate) < 1e-12, np.inf, rate)
            middle = (low + high) / 2
            here = np.where((by_newton > low) & (by_newton < high), by_newton, middle)
        to = xy[:, None] - value[:, :2]
        along = (to * _direction(value[:, 2])).sum(axis=2)
        closest = grid[np.hypot(off, np.maximum(np.maximum(-along, along - value[:, 3]), 0.0)).argmin(axis=1)]
        gap = self._beyond(xy[point], here)
        best = np.where(np.abs(self._off(xy, t)[0]) < ASTRAY, t, closest)
        nearest = self._beyond(xy, best)
        for k in np.argsort(-gap, kind="stable").tolist():  # the nearest comes last
            if gap[k] < nearest[point[k]]:
                best[point[k]] = here[k]
        return best

    @cached_property
    def _seeds(self) -> tuple[cKDTree, Array]:
        """A tree of points strewn over the flat, and the parameter of the ruling of each."""
        from scipy.spatial import cKDTree

        t = np.linspace(self.breaks[0], self.breaks[-1], 257)
        value, _ = self._at(t)
        part = np.linspace(0, 1, 33)[:, None]
        points = value[:, :2] + part[..., None] * (value[:, 3:] * _direction(value[:, 2]))
        return cKDTree(points.reshape(-1, 2)), np.tile(t, 33)

    def rulings(self, count: int) -> Array:
        t = np.linspace(self.breaks[0], self.breaks[-1], count)
        ends = np.stack([np.column_stack([t, np.full(count, s)]) for s in (self.start, self.end)], axis=1)
        return ends if self.axis == 0 else ends[:, :, ::-1]


def _direction(angle: Array) -> Array:
    return np.stack([np.cos(angle), np.sin(angle)], axis=1)


def _across(angle: Array) -> Array:
    """To the right of the ruling: where the parameter of the feet grows."""
    return np.stack([np.sin(angle), -np.cos(angle)], axis=1)


def _summed(terms: Array, span: np.ndarray, x: Array) -> tuple[Array, Array]:
    """Values and derivatives (n, m) of Chebyshev series, ``terms`` (k, s, m), of each ``span`` (n,) at ``x`` (n,)."""
    column = x[:, None]
    before, here = np.ones_like(column), column
    slope_before, slope = np.zeros_like(column), np.ones_like(column)
    value = terms[0].take(span, axis=0)
    rate = terms[1].take(span, axis=0)
    value = value + rate * here
    for k in range(2, len(terms)):
        after = 2 * column * here - before
        slope_after = 2 * here + 2 * column * slope - slope_before
        term = terms[k].take(span, axis=0)
        value += term * after
        rate += term * slope_after
        before, here, slope_before, slope = here, after, slope, slope_after
    return value, rate


def ruled_flat(surface: Surface, axis: int, feet: Array, ends: tuple[float, float]) -> RuledFlat:
    """Lays a surface flat whose isolines along the other parameter are straight and evenly run through.

    ``feet`` (at least two) are the values of parameter ``axis`` that bound its smooth spans, in order; ``ends`` the
    values of the other parameter at the feet and at the far ends.
    """
    feet = _apart(feet)
    inner = max(1, int(np.ceil(SPANS / (len(feet) - 1))))
    breaks = np.concatenate([np.linspace(a, b, inner + 1)[:-1] for a, b in pairwise(feet)] + [feet[-1:]])
    nodes = np.cos(np.pi * (np.arange(ORDER + 1) + 0.5) / (ORDER + 1))[::-1]
    half = np.diff(breaks) / 2
    t = (breaks[:-1, None] + half[:, None] * (nodes + 1)).ravel()

    def at(s: float) -> tuple[Array, Array]:
        uv = np.stack([t, np.full(len(t), s)], axis=1)
        uv = uv if axis == 0 else uv[:, ::-1]
        return surface.evaluate(uv), surface.derivatives(uv)[axis]

    (foot, foot_slope), (top, top_slope) = at(ends[0]), at(ends[1])
    line, line_slope = top - foot, top_slope - foot_slope
    length = np.maximum(np.linalg.norm(line, axis=1), 1e-12)
    r = line / length[:, None]
    length_slope = (line_slope * r).sum(axis=1)
    r_slope = (line_slope - length_slope[:, None] * r) / length[:, None]
    across = foot_slope + top_slope
    across = across - (across * r).sum(axis=1)[:, None] * r
    across /= np.maximum(np.linalg.norm(across, axis=1, keepdims=True), 1e-300)
    spin = -(r_slope * across).sum(axis=1)
    shape = (len(half), ORDER + 1)
    angle = _integrated(spin.reshape(shape), half, np.pi / 2)
    turned = chebyshev.chebval(nodes, angle.T)  # (k, nodes)
    along, aside = (foot_slope * r).sum(axis=1).reshape(shape), (foot_slope * across).sum(axis=1).reshape(shape)
    cosine, sine = np.cos(turned), np.sin(turned)
    x = _integrated(along * cosine + aside * sine, half, 0.0)
    y = _integrated(along * sine - aside * cosine, half, 0.0)
    lengths = _fitted(length.reshape(shape))
    made = RuledFlat(0.0, axis, *ends, breaks, np.stack([x, y, angle, lengths], axis=2))
    error = largest_stretch(surface, made, _grid(breaks, ends, axis))
    return RuledFlat(error, axis, *ends, breaks, made.series)


def _apart(feet: Array) -> Array:
    """The same without those that nearly coincide with the one before or with the last, as knots may."""
    inner, least = feet[1:-1], NO_SPAN * (feet[-1] - feet[0])
    inner = inner[(np.diff(feet[:-1]) > least) & (feet[-1] - inner > least)]
    return np.r_[feet[0], inner, feet[-1]]


def _grid(breaks: Array, ends: tuple[float, float], axis: int) -> Array:
    t = breaks[:-1] + np.diff(breaks) * 0.37
    s = ends[0] + (ends[1] - ends[0]) * np.linspace(0.02, 0.98, 9)
    grid = np.stack(np.meshgrid(t, s, indexing="ij"), axis=-1).reshape(-1, 2)
    return grid if axis == 0 else grid[:, ::-1]


def _fitted(values: Array) -> Array:
    """Chebyshev coefficients (k, n) of values (k, n) at the first-kind nodes in rising order."""
    n = values.shape[1]
    angles = np.pi * (np.arange(n) + 0.5) / n
    basis = np.cos(np.outer(np.arange(n), angles)) * 2 / n
    basis[0] /= 2
    return values[:, ::-1] @ basis.T


def _integrated(values: Array, half: Array, start: float) -> Array:
    """The running integral over the spans as Chebyshev coefficients (k, n), beginning at ``start``."""
    series = np.array([chebyshev.chebint(c, lbnd=-1) for c in _fitted(values)]) * half[:, None]
    steps = series.sum(axis=1)  # the value at +1
    series[:, 0] += start + np.r_[0, np.cumsum(steps)[:-1]]
    return series[:, : values.shape[1]]  # the last term is below rounding where the series has settled


def largest_stretch(surface: Surface, flat: FlatMap, uv: Array) -> float:
    """The largest stretch or compression of a flat at parameters (n, 2), as a part."""
    return float(np.abs(stretches(surface, flat, uv)).max())


def stretches(surface: Surface, flat: FlatMap, uv: Array) -> Array:
    """Singular values (n, 2) of the map from blank to form minus one, at parameters (n, 2)."""
    du, dv = surface.derivatives(uv)
    columns = flat.derivatives(uv)
    e = np.linalg.norm(du, axis=1)
    x = du / np.maximum(e, 1e-300)[:, None]
    f = (dv * x).sum(axis=1)
    g = np.linalg.norm(dv - f[:, None] * x, axis=1)
    form = np.stack([np.stack([e, f], axis=1), np.stack([0 * e, g], axis=1)], axis=1)
    laid = np.stack(columns, axis=2)
    good = (e > 1e-9 * e.max()) & (g > 1e-9 * g.max()) & (np.abs(np.linalg.det(laid)) > 1e-14 * np.abs(laid).max() ** 2)
    if not good.any():
        return np.full((1, 2), np.inf)
    return np.linalg.svd(form[good] @ np.linalg.inv(laid[good]), compute_uv=False) - 1
