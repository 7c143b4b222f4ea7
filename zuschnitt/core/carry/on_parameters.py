"""Runs of contours as curves in the surface parameters of the face they lie on."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely

from ..correspondence import Leaf, RigidLeaf
from ..form.charts import CylinderChart, PlaneChart
from ..geometry.curves import Array, Curve, Ellipse, Line, Spline, parameters_within
from ..plane.arrangement import Piece
from ..plane.contour import arc_centre
from .path import Paths
from .runs import Run
from .smooth_runs import smooth_curve, smooth_groups

EXACT = 1e-7
"""Curves on exact blanks come back this near, in mm; those on relaxed ones need no more than the next."""
RELAXED = 1e-3
FIRST, MOST = 9, 2049
"""Points through which a curve is laid, at first and at the most."""


def pieces_of(leaf: Leaf, paths: Paths, run: Run) -> list[Piece]:
    """Curves in the parameters of the leaf's face. Lines and arcs stay what they are on planes and cylinders."""
    plain = isinstance(leaf, RigidLeaf) and isinstance(leaf.chart, PlaneChart | CylinderChart)
    if plain:
        assert isinstance(leaf, RigidLeaf)
        zero, x, y = in_parameters(leaf, np.array([[0.0, 0], [1, 0], [0, 1]]))
        linear = np.stack([x - zero, y - zero], axis=1)
        return [piece for group in _groups(paths, run) for piece in _affine(paths, run, group, linear, zero)]
    return [_fitted(leaf, paths, run, group) for group in _groups(paths, run)]


def in_parameters(leaf: Leaf, points_blank: Array) -> Array:
    """Parameters (n, 2) of points of the blank, without jumps where they come round again."""
    uv = leaf.chart.unflatten(leaf.blank_to_chart(points_blank)[0])
    for axis, period in enumerate(leaf.chart.surface.periods):
        if period is not None:
            uv[:, axis] = np.unwrap(uv[:, axis], period=period)
    return uv


def _groups(paths: Paths, run: Run) -> Iterator[np.ndarray]:
    """Indices of the run's spans: one that stands for itself, or many short lines that stand for a smooth curve."""
    whole = (run.parts[:, 0] == 0) & (run.parts[:, 1] == 1)
    for group in smooth_groups(paths, run.spans, whole):
        yield np.searchsorted(run.spans, group)


def _affine(paths: Paths, run: Run, group: np.ndarray, linear: Array, zero: Array) -> Iterator[Piece]:
    spans, parts = run.spans[group], run.parts[group]
    if len(group) > 1:
        curve = smooth_curve(paths, spans)
        assert curve is not None
        moved = Spline(curve.knots, curve.control @ linear.T + zero, curve.degree)
        yield Piece(moved, float(curve.knots[0]), float(curve.knots[-1]))
        return
    (span,), ((a, b),) = spans.tolist(), parts.tolist()
    start, end, bulge = paths.start[span], paths.end[span], float(paths.bulge[span])
    if bulge == 0:
        yield Piece(Line.between(linear @ start + zero, linear @ end + zero), a, b)
        return
    centre, radius, angle, sweep = arc_centre(start, end, bulge)
    axes = linear * radius
    yield Piece(Ellipse(linear @ centre + zero, axes[:, 0], axes[:, 1]), angle + a * sweep, angle + b * sweep)


def _fitted(leaf: Leaf, paths: Paths, run: Run, group: np.ndarray) -> Piece:
    """A spline through so many points that between them it stays near what it stands for, measured on the blank."""
    spans, parts = run.spans[group], run.parts[group]
    if len(group) > 1:
        smooth = smooth_curve(paths, spans)
        assert smooth is not None
        low, high, at = float(smooth.knots[0]), float(smooth.knots[-1]), smooth.evaluate
    else:
        low, high = parts[0].tolist()

        def at(t: Array) -> Array:
            return paths.at(np.full(len(t), spans[0]), np.asarray(t, float))

    return Piece(
        fitted(lambda t: in_parameters(leaf, at(t)), _size(leaf), low, high, isinstance(leaf, RigidLeaf)), low, high
    )


def _size(leaf: Leaf) -> Array:
    """How many mm a unit of each parameter is, about."""
    uv = leaf.chart.unflatten(np.vstack(leaf.region.rings))
    du, dv = leaf.chart.surface.derivatives(uv)
    return np.array([np.linalg.norm(du, axis=1).max(), np.linalg.norm(dv, axis=1).max()])


def fitted(curve, size: Array, low: float, high: float, exact: bool) -> Curve:
    """A spline in the plane near ``curve(t) -> (n, 2)`` for t from ``low`` to ``high``; ``size`` (2,) makes it mm."""
    from scipy.interpolate import make_interp_spline

    tolerance = EXACT if exact else RELAXED
    count = FIRST
    while True:
        t = np.linspace(low, high, count)
        spline = make_interp_spline(t, curve(t), 5 if exact else 3)
        between = (t[:-1, None] + np.diff(t)[:, None] * [0.3, 0.7]).ravel()
        off = np.linalg.norm((spline(between) - curve(between)) * size, axis=1).max()
        if off <= tolerance:
            return Spline(spline.t, spline.c, spline.k)
        if count >= MOST:
            return _polyline(curve, size, low, high, tolerance)
        count = 2 * count - 1


def _polyline(curve, size: Array, low: float, high: float, tolerance: float) -> Spline:
    """Where nothing smooth comes near: short lines that do, none of them needlessly short about a corner."""
    t = parameters_within(lambda t: curve(t) * size, low, high, tolerance / 2)
    placed = shapely.linestrings(np.column_stack([curve(t) * size, t]))
    t = shapely.get_coordinates(shapely.simplify(placed, tolerance / 2, preserve_topology=False), include_z=True)[:, 2]
    return Spline(np.r_[t[0], t, t[-1]], curve(t), 1)


def ended(piece: Piece, start: Array | None, end: Array | None) -> Piece:
    """A spline piece with its ends put to given parameters (2,), where they are off by a little."""
    if not isinstance(piece.curve, Spline):
        return piece
    control = piece.curve.control.copy()
    for index, at in ((0, start), (-1, end)):
        if at is not None:
            control[index] = at
    return Piece(Spline(piece.curve.knots, control, piece.curve.degree), piece.start, piece.end, piece.border)
