"""The true area of a trimmed face, and its share of the volume that it bounds."""

from __future__ import annotations

import numpy as np

from ..geometry.curves import Array, Curve, Line, Spline
from ..geometry.surfaces import Cylinder, Plane, SplineSurface, Surface
from .form import CUT, Coedge, Face

NODES, WEIGHTS = np.polynomial.legendre.leggauss(12)
FEWER = np.polynomial.legendre.leggauss(8)
"""Nodes and weights with which a third of position times du x dv of a spline of degree 5 is still exact."""
SPANS = 8
"""A walk along what is neither line nor spline is integrated over in so many spans,"""
ACROSS = 4
"""and a surface without breaks over so many in each direction."""
LOOKED_AT = 129
"""At so many places along a walk it is looked where it passes a knot of the surface."""
CLOSED, GAP = 1e-12, 0.1
"""Walks of a loop that end and begin this near, as a part of its extent in both parameters, meet; this far apart they
do not."""
UPRIGHT = 1e-12
"""Walks run along one of the parameters where the other changes by no more than this part of it."""


def face_area(face: Face) -> float:
    """Area in mm² of ``face`` on its true surface."""
    if isinstance(face.surface, Plane):
        return abs(_in_parameters(face))
    if isinstance(face.surface, Cylinder):
        return abs(face.surface.radius) * abs(_in_parameters(face))
    return face_measures(face)[0]


def face_measures(face: Face) -> tuple[float, float]:
    """Area in mm² of ``face`` on its true surface, and its share in mm³ of the volume within the faces of a body.

    The volume is a third of the integral of position times outer normal (divergence theorem). Over a rectangle of
    parameters by a product of Gauss-Legendre rules; else by Green's theorem: the integral of f over the face is that
    of F dv round its loops, with F the integral of f along u.
    """
    way = -1.0 if face.reversed else 1.0
    if isinstance(face.surface, Plane):
        area = abs(_in_parameters(face))
        plane = face.surface.frame
        return area, way * plane.hand * float(plane.origin @ plane.axes[2]) * area / 3
    rectangle = _rectangle(face)
    if rectangle is not None:
        area, volume = _over_rectangle(face.surface, *rectangle)
        return area, way * volume
    walks = [walk for loop in face.loops for walk in _closed(loop)]
    low = min(c.uv(np.linspace(c.start, c.end, 9))[:, 0].min() for c in walks)
    places, factors = [], []
    for coedge in walks:
        t, weights = gauss_rule(_breaks(coedge, face.surface))
        weights = weights * coedge.curve.derivative(t)[:, 1]
        rises = np.nonzero(weights)[0]  # along u nothing is added
        places.append(coedge.uv(t[rises]))
        factors.append(weights[rises])
    area, volume = (np.concatenate(factors) @ _strip(face.surface, low, np.vstack(places))).tolist()
    return abs(area), way * volume * (1.0 if area >= 0 else -1.0)


def _in_parameters(face: Face) -> float:
    return sum(_inside(walk) for loop in face.loops for walk in _closed(loop))


def _closed(loop: tuple[Coedge, ...]) -> list[Coedge]:
    """A loop with lines where its walks do not quite meet: else what it bounds would depend on where the origin is.

    Where it comes round a closed surface they are far apart, which is no gap.
    """
    ends = np.array([coedge.ends for coedge in loop])
    gaps = np.roll(ends[:, 0], -1, axis=0) - ends[:, 1]
    extent, size = np.ptp(ends.reshape(-1, 2), axis=0), np.abs(gaps)
    apart = np.nonzero((size > CLOSED * extent).any(axis=1) & (size < GAP * extent).all(axis=1))[0]
    lines = [Coedge(CUT, Line.between(ends[k, 1], ends[k, 1] + gaps[k]), 0.0, 1.0) for k in apart.tolist()]
    return [*loop, *lines]


def _inside(coedge: Coedge) -> float:
    """The integral of u dv along a walk: all of those round a region are its area in the parameters."""
    curve, (start, end) = coedge.curve, (coedge.start, coedge.end)
    if isinstance(curve, Line):
        (u0, v0), (u1, v1) = (curve.origin + t * curve.direction for t in (start, end))
        return float((u0 + u1) * (v1 - v0) / 2)
    t, weights = gauss_rule(_spans(curve, start, end))
    return float(weights @ (curve.evaluate(t)[:, 0] * curve.derivative(t)[:, 1]))


def _spans(curve: Curve, start: float, end: float) -> Array:
    """Spans to integrate over, so that no knot lies within one."""
    if isinstance(curve, Line):
        return np.array([start, end])
    if not isinstance(curve, Spline):
        return np.linspace(start, end, SPANS + 1)
    low, high = sorted((start, end))
    inner = curve.breaks
    spans = np.unique(np.r_[np.linspace(low, high, 3), inner[(inner > low) & (inner < high)]])
    return spans if start < end else spans[::-1]


def _breaks(coedge: Coedge, surface: Surface) -> Array:
    """As ``_spans``, and so that the walk passes no knot of the surface within one."""
    curve, start, end = coedge.curve, coedge.start, coedge.end
    found = [_spans(curve, start, end)]
    t = np.linspace(start, end, 2 if isinstance(curve, Line) else LOOKED_AT)
    walk = curve.evaluate(t)
    for axis, breaks in enumerate((surface.breaks_u, surface.breaks_v)):
        off = walk[:, axis] - breaks[:, None]
        row, k = np.nonzero(off[:, :-1] * off[:, 1:] < 0)
        part = off[row, k] / (off[row, k] - off[row, k + 1])
        found.append(t[k] + part * (t[k + 1] - t[k]))
    every = np.unique(np.concatenate(found))
    return every if start < end else every[::-1]


def gauss_rule(breaks: Array, rule: tuple[Array, Array] = (NODES, WEIGHTS)) -> tuple[Array, Array]:
    """Nodes and weights (n,) of a Gauss-Legendre rule on each span between ``breaks`` (k,)."""
    half = np.diff(breaks)[:, None] / 2
    return (breaks[:-1, None] + half * (rule[0] + 1)).ravel(), (half * rule[1]).ravel()


def _rectangle(face: Face) -> tuple[float, float, float, float] | None:
    """The rectangle of parameters that a face is, as least and largest u, then v; None where it is none."""
    if len(face.loops) != 1:
        return None
    corners = []
    for coedge in face.loops[0]:
        ends = coedge.ends
        walked = coedge.curve.control if isinstance(coedge.curve, Spline) else ends
        across, up = np.ptp(walked, axis=0).tolist()
        if not isinstance(coedge.curve, Line | Spline) or min(across, up) > UPRIGHT * max(across, up):
            return None
        corners.append(ends[0])
    points = np.array(corners)
    (u0, v0), (u1, v1) = points.min(axis=0).tolist(), points.max(axis=0).tolist()
    whole = (u1 - u0) * (v1 - v0)
    return (u0, u1, v0, v1) if abs(abs(_in_parameters(face)) - whole) <= 1e-9 * whole else None


def _over_rectangle(surface: Surface, u0: float, u1: float, v0: float, v1: float) -> tuple[float, float]:
    """The area over a rectangle of parameters, and its share of the volume to the side of du x dv."""
    rules = []
    for low, high, breaks in ((u0, u1, surface.breaks_u), (v0, v1, surface.breaks_v)):
        if isinstance(surface, SplineSurface):
            inner, rule = breaks, FEWER if max(surface.degree_u, surface.degree_v) <= 5 else (NODES, WEIGHTS)
        else:
            inner, rule = np.union1d(breaks, np.linspace(low, high, ACROSS + 1)), (NODES, WEIGHTS)
        rules.append(gauss_rule(np.r_[low, inner[(inner > low) & (inner < high)], high], rule))
    (u, weights_u), (v, weights_v) = rules
    uv = np.stack(np.meshgrid(u, v, indexing="ij"), axis=-1).reshape(-1, 2)
    both = np.outer(weights_u, weights_v).ravel() @ _densities(surface, uv)
    return float(both[0]), float(both[1])


def _densities(surface: Surface, uv: Array) -> Array:
    """|du x dv| and a third of position times du x dv (n, 2)."""
    normal = np.cross(*surface.derivatives(uv))
    return np.column_stack(
        [np.linalg.norm(normal, axis=1), np.einsum("ij,ij->i", surface.evaluate(uv), normal) / 3]
    )  # fmt: skip


def _strip(surface: Surface, low: float, uv: Array) -> Array:
    """The integrals (n, 2) of both densities from ``low`` to each u, at each v of ``uv`` (n, 2)."""
    total = np.zeros((len(uv), 2))
    begin = np.full(len(uv), low)
    for column, end in enumerate((*surface.breaks_u, np.inf)):
        stop = np.clip(uv[:, 0], None, np.maximum(end, low))
        wide = np.nonzero(stop != begin)[0]
        if len(wide):
            half = (stop - begin)[wide] / 2
            u = begin[wide, None] + half[:, None] * (NODES + 1)
            v = uv[wide, 1]
            if isinstance(surface, SplineSurface) and surface.weights is None:
                both = _densities_along(surface, column, u, v)
            else:
                every = np.stack([u, np.broadcast_to(v[:, None], u.shape)], axis=-1)
                both = _densities(surface, every.reshape(-1, 2)).reshape(*u.shape, 2)
            total[wide] += half[:, None] * np.einsum("nkd,k->nd", both, WEIGHTS)
        begin = stop
    return total


def _densities_along(surface: SplineSurface, column: int, u: Array, v: Array) -> Array:
    """Both densities (n, k, 2) at places ``u`` (n, k) behind the break ``column``, in rows at ``v`` (n,)."""
    points, slopes = surface.along_u(column, v)
    start = surface.bounds[0] if column == 0 else surface.breaks_u[column - 1]
    degree = surface.degree_u
    powers = (u - start)[..., None] ** np.arange(degree + 1)
    along = powers[..., :degree] @ (points[:, 1:] * np.arange(1, degree + 1)[:, None])
    normal = np.cross(along, powers @ slopes)
    share = np.einsum("nkd,nkd->nk", powers @ points, normal) / 3
    return np.stack([np.linalg.norm(normal, axis=-1), share], axis=-1)
