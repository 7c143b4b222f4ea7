"""Poles: sides of a face's parameters that are a single point of the surface, whatever surface it is."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..geometry.curves import Array, Curve, Ellipse, Line
from ..geometry.surfaces import SplineSurface
from .form import POLE, Coedge, Face


def with_poles_along_u(face: Face) -> Face:
    """The face with its parameters exchanged where that makes its poles sides of equal v, as charts expect them.

    The outer side and the order round the face stay; only spline surfaces can have poles the other way.
    """
    poles = [c for loop in face.loops for c in loop if c.edge == POLE]
    surface = face.surface
    if not poles or not isinstance(surface, SplineSurface) or any(_runs_along(c) == 0 for c in poles):
        return face
    exchanged = SplineSurface(
        surface.knots_v,
        surface.knots_u,
        np.ascontiguousarray(surface.control.transpose(1, 0, 2)),
        surface.degree_v,
        surface.degree_u,
        None if surface.weights is None else np.ascontiguousarray(surface.weights.T),
        surface.ruled,
    )
    # exchanged parameters turn the other way round: the loops are walked backwards to keep the face on their left
    loops = tuple(tuple(_exchanged(c) for c in reversed(loop)) for loop in face.loops)
    return replace(face, surface=exchanged, reversed=not face.reversed, loops=loops)


def _runs_along(coedge: Coedge) -> int:
    """0 for a walk along u, 1 for one along v."""
    step = np.abs(np.diff(coedge.ends, axis=0))[0]
    return int(step[1] > step[0])


def _exchanged(coedge: Coedge) -> Coedge:
    curve: Curve
    if isinstance(coedge.curve, Line):
        curve = Line(_swapped(coedge.curve.origin), _swapped(coedge.curve.direction))
    elif isinstance(coedge.curve, Ellipse):
        curve = Ellipse(*(_swapped(v) for v in (coedge.curve.centre, coedge.curve.x_axis, coedge.curve.y_axis)))
    else:
        curve = replace(coedge.curve, control=_swapped(coedge.curve.control))
    return Coedge(coedge.edge, curve, coedge.end, coedge.start)


def _swapped(values: Array) -> Array:
    return np.ascontiguousarray(np.asarray(values)[..., ::-1])
