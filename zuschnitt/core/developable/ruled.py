"""Ruled forms: the surface that straight lines sweep between two curves."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..form.area import gauss_rule
from ..form.build import connected
from ..form.form import POLE, Coedge, Edge, Face, Form, OnSurface
from ..form.meshing import with_meshes
from ..geometry.curves import Array, Line
from ..geometry.surfaces import SplineSurface
from .developable import with_flat

DEGREE = 5


def ruled_surface(pieces: Sequence[tuple[Array, Array, Array]]) -> SplineSurface:
    """The surface through rulings: each piece has parameters (n,), and the points (n, 3) where they begin and end.

    Between pieces the curves may have corners; within one they are interpolated smoothly. The parameter of
    the pieces runs on from one to the next; v is 0 on the first curve and 1 on the second.
    """
    from scipy.interpolate import make_interp_spline

    knots: list[Array] = []
    control: list[Array] = []
    for i, (t, first, second) in enumerate(pieces):
        degree = min(DEGREE, len(t) - 1)
        spline = make_interp_spline(t, np.stack([first, second], axis=1), degree)
        piece = _raised(spline.t, spline.c, degree)
        knots.append(piece[0][: -DEGREE - 1] if i == 0 else piece[0][DEGREE + 1 : -DEGREE - 1])
        knots.append(np.full(DEGREE if i < len(pieces) - 1 else DEGREE + 1, t[-1]))
        control.append(piece[1] if i == 0 else piece[1][1:])
    return SplineSurface(np.concatenate(knots), np.array([0.0, 0, 1, 1]), np.concatenate(control), DEGREE, 1)


def _raised(knots: Array, control: Array, degree: int) -> tuple[Array, Array]:
    """The same polynomial piece at the degree that all pieces have."""
    if degree == DEGREE:
        return knots, control
    from scipy.interpolate import BSpline, make_interp_spline

    t = np.linspace(knots[0], knots[-1], DEGREE + 1)
    spline = make_interp_spline(t, BSpline(knots, control, degree)(t), DEGREE)
    return spline.t, spline.c


def ruled_form(surfaces: Sequence[SplineSurface], name: str, messages: tuple[str, ...] = ()) -> Form:
    """Each surface as a face of its own, its parameters' whole box; u = 0 and u = 1 of a closed one are a seam."""
    faces: list[Face] = []
    edges: list[Edge] = []
    for surface in surfaces:
        faces.append(_face(len(faces) + 1, surface, edges))
    return with_meshes(connected(Form(name, tuple(faces), tuple(edges), messages=messages)))


def _face(number: int, surface: SplineSurface, edges: list[Edge]) -> Face:
    u0, u1, v0, v1 = surface.bounds
    corners = np.array([[u0, v0], [u1, v0], [u1, v1], [u0, v1]])
    size = float(np.linalg.norm(np.ptp(surface.control.reshape(-1, 3), axis=0)))
    sides: list[tuple[Line, float, float]] = [
        (Line(np.array([0.0, v0]), np.array([1.0, 0])), u0, u1),
        (Line(np.array([u1, 0.0]), np.array([0.0, 1])), v0, v1),
        (Line(np.array([0.0, v1]), np.array([1.0, 0])), u1, u0),
        (Line(np.array([u0, 0.0]), np.array([0.0, 1])), v1, v0),
    ]
    closed = np.abs(surface.evaluate(corners[[0, 3]]) - surface.evaluate(corners[[1, 2]])).max() < 1e-9 * size
    loop = []
    for i, (curve, start, end) in enumerate(sides):
        points = surface.evaluate(curve.evaluate(np.linspace(start, end, 9)))
        if np.ptp(points, axis=0).max() < 1e-9 * size:
            loop.append(Coedge(POLE, curve, start, end))
        elif i == 3 and closed:
            loop.append(Coedge(loop[1].edge, curve, start, end))
        else:
            loop.append(Coedge(len(edges), curve, start, end))
            edges.append(Edge(len(edges) + 1, OnSurface(surface, curve), min(start, end), max(start, end), ()))
    return with_flat(Face(number, surface, False, (tuple(loop),), _area(surface)))


def _area(surface: SplineSurface) -> float:
    """Area in mm² of the whole box of parameters, by Gauss-Legendre rules on each of its pieces."""
    u0, u1, v0, v1 = surface.bounds
    u, u_weights = gauss_rule(np.r_[u0, surface.breaks_u, u1])
    v, v_weights = gauss_rule(np.r_[v0, surface.breaks_v, v1])
    grid = np.stack(np.meshgrid(u, v, indexing="ij"), axis=-1).reshape(-1, 2)
    size = np.linalg.norm(np.cross(*surface.derivatives(grid)), axis=1)
    return float(u_weights @ size.reshape(len(u), len(v)) @ v_weights)
