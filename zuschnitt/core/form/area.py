"""The true area of a trimmed face."""

from __future__ import annotations

import numpy as np

from ..geometry.curves import Array, Curve, Line, Spline
from ..geometry.surfaces import Cylinder, Plane, Surface
from .form import Coedge, Face

NODES, WEIGHTS = np.polynomial.legendre.leggauss(12)


def face_area(face: Face) -> float:
    """Area in mm² of ``face`` on its true surface.

    Green's theorem in the parameters: the integral of |du x dv| over the face is that of
    F dv round its loops, with F the integral of |du x dv| along u. Both by Gauss-Legendre rules.
    """
    walks = [coedge for loop in face.loops for coedge in loop]
    if isinstance(face.surface, Plane):
        return abs(sum(map(_inside, walks)))
    if isinstance(face.surface, Cylinder):
        return face.surface.radius * abs(sum(map(_inside, walks)))
    low = min(c.uv(np.linspace(c.start, c.end, 9))[:, 0].min() for c in walks)
    total = 0.0
    for coedge in walks:
        t, weights = gauss_rule(_breaks(coedge.curve, coedge.start, coedge.end))
        weights = weights * coedge.curve.derivative(t)[:, 1]
        rises = np.nonzero(weights)[0]  # along u nothing is added
        if len(rises):
            total += (weights[rises] * _strip(face.surface, low, coedge.uv(t[rises]))).sum()
    return abs(float(total))


def _inside(coedge: Coedge) -> float:
    """The integral of u dv along a walk: all of those round a region are its area in the parameters."""
    curve, (start, end) = coedge.curve, (coedge.start, coedge.end)
    if isinstance(curve, Line):
        (u0, v0), (u1, v1) = (curve.origin + t * curve.direction for t in (start, end))
        return float((u0 + u1) * (v1 - v0) / 2)
    t, weights = gauss_rule(_breaks(curve, start, end))
    return float(weights @ (curve.evaluate(t)[:, 0] * curve.derivative(t)[:, 1]))


def _breaks(curve: Curve, start: float, end: float) -> Array:
    """Spans to integrate over, so that no knot lies within one."""
    spans = np.linspace(start, end, 9)
    if isinstance(curve, Spline):
        low, high = sorted((start, end))
        inner = curve.breaks
        spans = np.concatenate([spans, inner[(inner > low) & (inner < high)]])
        spans = np.unique(spans) if start < end else np.unique(spans)[::-1]
    return spans


def gauss_rule(breaks: Array) -> tuple[Array, Array]:
    """Nodes and weights (n,) of a Gauss-Legendre rule on each span between ``breaks`` (k,)."""
    half = np.diff(breaks)[:, None] / 2
    return (breaks[:-1, None] + half * (NODES + 1)).ravel(), (half * WEIGHTS).ravel()


def _strip(surface: Surface, low: float, uv: Array) -> Array:
    """The integral of |du x dv| from ``low`` to each u, at each v of ``uv`` (n, 2)."""
    total = np.zeros(len(uv))
    begin = np.full(len(uv), low)
    for end in (*surface.breaks_u, np.inf):
        stop = np.clip(uv[:, 0], None, np.maximum(end, low))
        wide = np.nonzero(stop != begin)[0]
        if len(wide):
            half = (stop - begin)[wide] / 2
            u = begin[wide, None] + half[:, None] * (NODES + 1)
            v = np.broadcast_to(uv[wide, 1:], u.shape)
            du, dv = surface.derivatives(np.stack([u.ravel(), v.ravel()], axis=1))
            size = np.linalg.norm(np.cross(du, dv), axis=1).reshape(u.shape)
            total[wide] += half * (size @ WEIGHTS)
        begin = stop
    return total
