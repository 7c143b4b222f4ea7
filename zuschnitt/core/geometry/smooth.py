"""Smooth curves and surfaces through points."""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from .curves import Array, Line, Spline
from .surfaces import SplineSurface

NODES, WEIGHTS = np.polynomial.legendre.leggauss(4)
STRAIGHT = 1e-10
"""Points that lie off the chord by no more than this part of it are on a straight line."""


def splines_through(points: Array, corners: np.ndarray) -> tuple[Spline | Line, ...]:
    """Smooth curves through ``points`` (n, d), from corner to corner."""
    runs = (points[a : b + 1] for a, b in pairwise(corners.tolist()))
    return tuple(smooth_through(run) for run in runs if (run[1:] != run[0]).any())


def length_through(points: Array, corners: np.ndarray) -> float:
    """The length in mm of the smooth curves through ``points`` (n, d), from corner to corner."""
    straight = np.nonzero(np.diff(corners) == 1)[0]
    total = float(np.linalg.norm(points[corners[straight] + 1] - points[corners[straight]], axis=1).sum())
    for k in np.nonzero(np.diff(corners) > 1)[0].tolist():
        run = points[corners[k] : corners[k + 1] + 1]
        if (run[1:] != run[0]).any():
            total += float(np.linalg.norm(run[-1] - run[0])) if _straight(run) else _length(smooth_through(run))
    return total


def through_grid(u: Array, v: Array, grid: Array) -> SplineSurface:
    """The bicubic spline surface through a grid (n, m, 3) of points at parameters ``u`` (n,) and ``v`` (m,)."""
    from scipy.interpolate import make_interp_spline

    along = make_interp_spline(u, grid, k=3)
    across = make_interp_spline(v, along.c.swapaxes(0, 1), k=3)
    return SplineSurface(along.t, across.t, np.ascontiguousarray(across.c.swapaxes(0, 1)), 3, 3)


def _straight(run: Array) -> bool:
    """Whether points (n, d) lie on a straight line, in order."""
    off = run - run[0]
    along = off @ off[-1]
    square = float(along[-1])
    if square == 0 or (np.diff(along) < 0).any():
        return False
    beside = off - (along / square)[:, None] * off[-1]
    return bool((beside**2).sum(axis=1).max() <= STRAIGHT**2 * square)


def smooth_through(points: Array) -> Spline | Line:
    """A cubic spline through ``points`` (n, d) by their chord lengths; a line through two."""
    from scipy.interpolate import make_interp_spline

    if len(points) > 2:
        chords = np.linalg.norm(points[1:] - points[:-1], axis=1)
        points = points[np.concatenate([[True], chords > 1e-12])]
    if len(points) <= 2:
        return Line.between(points[0], points[-1])
    t = np.concatenate([[0.0], np.cumsum(np.linalg.norm(points[1:] - points[:-1], axis=1))])
    spline = make_interp_spline(t, points, min(3, len(points) - 1))
    return Spline(spline.t, spline.c, spline.k)


def _length(curve: Spline | Line) -> float:
    if isinstance(curve, Line):
        return float(np.linalg.norm(curve.direction))
    knots = np.unique(curve.knots)
    half = np.diff(knots)[:, None] / 2
    speed = np.linalg.norm(curve.derivative((knots[:-1, None] + half * (NODES + 1)).ravel()), axis=1)
    return float((speed.reshape(len(half), -1) * half * WEIGHTS).sum())
