"""Curves in the plane or in space by their parameter: lines, ellipses, (rational) B-splines.

Each has ``evaluate(t) -> (n, d)`` and ``derivative(t)`` for parameters ``t`` (n,), d being 2 or 3.
The edge of a face has one curve in space and one in each face's surface parameters; all share the parameter ``t``.
"""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from ..lazy import Lazy
from ..record import record

if TYPE_CHECKING:  # imported where it is needed: it is slow to import, and most parts have no splines
    from scipy.interpolate import BSpline

Array = NDArray[np.float64]


@record
class Line:
    """``origin + t direction``."""

    origin: Array
    direction: Array
    kind = "line"

    def evaluate(self, t: Array) -> Array:
        return self.origin + np.asarray(t, float)[..., None] * self.direction

    def derivative(self, t: Array) -> Array:
        return np.broadcast_to(self.direction, (len(t), len(self.direction)))

    @staticmethod
    def between(start: Array, end: Array) -> Line:
        """The line that is at ``start`` for t = 0 and at ``end`` for t = 1."""
        start, end = np.asarray(start, float), np.asarray(end, float)
        return Line(start, end - start)


@record
class Ellipse:
    """``centre + cos t · x_axis + sin t · y_axis``; the axes carry the radii."""

    centre: Array
    x_axis: Array
    y_axis: Array

    @property
    def kind(self) -> str:
        radii = np.linalg.norm(self.x_axis), np.linalg.norm(self.y_axis)
        return "circle" if abs(radii[0] - radii[1]) <= 1e-9 * max(radii) else "ellipse"

    def evaluate(self, t: Array) -> Array:
        t = np.asarray(t, float)
        return self.centre + np.multiply.outer(np.cos(t), self.x_axis) + np.multiply.outer(np.sin(t), self.y_axis)

    def derivative(self, t: Array) -> Array:
        return np.multiply.outer(np.cos(t), self.y_axis) - np.multiply.outer(np.sin(t), self.x_axis)


@record
class Spline(Lazy):
    """A B-spline curve; with ``weights`` (n,) a rational one. ``control`` is (n, d)."""

    knots: Array
    control: Array
    degree: int
    weights: Array | None = None
    kind = "spline"

    @cached_property
    def _basis(self) -> BSpline:
        from scipy.interpolate import BSpline

        if self.weights is None:
            return BSpline(self.knots, self.control, self.degree)
        homogeneous = np.column_stack([self.control * self.weights[:, None], self.weights])
        return BSpline(self.knots, homogeneous, self.degree)

    def evaluate(self, t: Array) -> Array:
        values = self._basis(np.asarray(t, float))
        if self.weights is None:
            return values
        return values[..., :-1] / values[..., -1:]

    def derivative(self, t: Array) -> Array:
        slope = self._basis.derivative()(np.asarray(t, float))
        if self.weights is None:
            return slope
        value = self._basis(np.asarray(t, float))
        point = value[..., :-1] / value[..., -1:]
        return (slope[..., :-1] - slope[..., -1:] * point) / value[..., -1:]

    @property
    def breaks(self) -> Array:
        """The inner knots, where the curve may be less smooth."""
        return np.unique(self.knots[self.degree : -self.degree])[1:-1]

    @property
    def sharp(self) -> Array:
        """The inner knots at which the curve may have a corner."""
        return sharp_knots(self.knots, self.degree)


def sharp_knots(knots: Array, degree: int) -> Array:
    """Inner knots that are there as often as the degree: a spline may have a corner at them (de Boor)."""
    values, counts = np.unique(knots, return_counts=True)
    return values[1:-1][counts[1:-1] >= degree]


Curve = Line | Ellipse | Spline


def length(curve_points, start: float, end: float) -> float:
    """Length of ``curve_points(t)`` from ``start`` to ``end``, by Richardson extrapolation of chords."""

    def chords(points: Array) -> float:
        return float(np.linalg.norm(np.diff(points, axis=0), axis=1).sum())

    return converged(lambda spans: curve_points(np.linspace(start, end, spans + 1)), chords)


CONVERGED = 1e-10
"""A length or an area is taken when the last refinement changed it by less than this part."""
MOST_SPANS = 2**16


def converged(points_of, measure) -> float:
    """The limit of ``measure`` over polylines ``points_of(spans)``, whose error falls with the square of the spans.

    Richardson extrapolation over three finenesses (Press et al., Numerical Recipes, section 4.3, with chords in place
    of trapezia), made finer until that settles: a curve with many bends needs it.
    """
    spans = 256
    while True:
        points = points_of(spans)
        coarse, middle, fine = (measure(points[::step]) for step in (4, 2, 1))
        once = middle + (middle - coarse) / 3, fine + (fine - middle) / 3
        limit = once[1] + (once[1] - once[0]) / 15
        if abs(once[1] - once[0]) <= 15 * CONVERGED * abs(limit) or spans >= MOST_SPANS:
            return limit
        spans *= 4


LOOKED_AT = (0.23, 0.5, 0.77)
"""Where along a span its distance from the chord is looked at."""


def parameters_along(line: Line, start: float, end: float, longest: float) -> Array:
    """Those of ``parameters_within`` on a line: nothing is off its chords."""
    chord = abs(end - start) * float(np.linalg.norm(line.direction)) / 4
    halvings = int(np.clip(np.ceil(np.log2(max(chord / longest, 1.0))), 0, 16))
    return np.linspace(start, end, 4 * 2**halvings + 1)


def parameters_round(ellipse: Ellipse, start: float, end: float, tolerance: float) -> Array:
    """Parameters (n,) evenly from ``start`` to ``end`` of an arc whose chords are within ``tolerance`` mm of it."""
    widest = float(np.linalg.norm(np.stack([ellipse.x_axis, ellipse.y_axis]), ord=2))
    step = 2 * np.arccos(max(1 - tolerance / widest, 0.5))
    return np.linspace(start, end, 1 + max(1, int(np.ceil(abs(end - start) / step))))


def parameters_of(curve: Curve, start: float, end: float, tolerance: float) -> Array:
    """Parameters (n,) from ``start`` to ``end`` of a curve whose chords stay within ``tolerance`` mm of it."""
    if isinstance(curve, Line):
        return np.array([start, end])
    if isinstance(curve, Ellipse):
        return parameters_round(curve, start, end, tolerance)
    return parameters_within(curve.evaluate, start, end, tolerance)


def parameters_within(curve_points, start: float, end: float, tolerance: float, longest=np.inf):
    """Parameters (n,) from ``start`` to ``end`` whose chords stay within ``tolerance`` of the curve.

    No chord is longer than ``longest``. Halves every span that is not yet good enough.
    """
    if end < start:
        return parameters_within(curve_points, end, start, tolerance, longest)[::-1]
    t = np.linspace(start, end, 5)
    for _ in range(16):
        middle = (t[1:] + t[:-1]) / 2
        points = curve_points(t)
        chord = np.diff(points, axis=0)
        lengths = np.linalg.norm(chord, axis=1)
        sag = np.zeros(len(middle))
        # not at the middle alone: a symmetric wave passes through the chord there
        for part in LOOKED_AT:
            to_curve = curve_points(t[:-1] + part * np.diff(t)) - points[:-1]
            along = np.einsum("ij,ij->i", to_curve, chord) / np.maximum(lengths, 1e-150) ** 2
            sag = np.maximum(sag, np.linalg.norm(to_curve - along[:, None] * chord, axis=1))
        bad = (sag > tolerance) | (lengths > longest)
        if not bad.any():
            break
        t = np.sort(np.concatenate([t, middle[bad]]))
    return t
