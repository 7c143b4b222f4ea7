"""Which faces can be developed: found by laying them flat, not by their type."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from ..form.form import Face, Form
from ..form.unwrapped import plain_box
from ..geometry.curves import Array
from ..geometry.ruled_flat import DEVELOPABLE, FlatMap, ruled_flat
from ..geometry.surfaces import Extrusion, Fitted, SplineSurface
from ..mesh.mesh_surface import MeshSurface
from .fitted_flat import fitted_flat, total_curvature

ROUND = 5e-3
"""A face with more total curvature than this, in radians, is not tried."""


def with_flats(form: Form, numbers: Iterable[int]) -> Form:
    """The form, its faces ``numbers`` looked at where that was put off when it was made."""
    waiting = {n for n in numbers if not form.face(n).looked_at}
    if not waiting:
        return form
    faces = (with_flat(replace(f, looked_at=True)) if f.number in waiting else f for f in form.faces)
    return replace(form, faces=tuple(faces))


def with_flat(face: Face) -> Face:
    """The face with its flat, where it is developable but of no type that is known to be."""
    if face.surface.developable or isinstance(face.surface, MeshSurface) or not isinstance(face.surface, Fitted):
        return face
    flat = nearest_flat(face, ROUND)
    return replace(face, flat=flat) if flat is not None and flat.error <= DEVELOPABLE else face


def nearest_flat(face: Face, roundest: float = np.inf) -> FlatMap | None:
    """The flat of a face that stretches least; None where its total curvature is above ``roundest`` radians."""
    surface, box = face.surface, plain_box(face)
    assert isinstance(surface, Fitted)
    ruled = _by_rulings(surface, box)
    if ruled is not None and (ruled.error <= DEVELOPABLE or np.isfinite(roundest)):
        return ruled
    if total_curvature(surface, box) > roundest:
        return None
    return fitted_flat(surface, box, _breaks(surface, (-np.inf, 1)), _breaks(surface, (2, 2)))


def _breaks(surface: Fitted, smooth: tuple[float, float]) -> tuple[Array, Array]:
    """Inner parameters where the surface is so many times smooth, from and to: its flat has a knot there too."""
    if not isinstance(surface, SplineSurface):
        return np.zeros(0), np.zeros(0)
    return _knots(surface.knots_u, surface.degree_u, smooth), _knots(surface.knots_v, surface.degree_v, smooth)


def _knots(knots: Array, degree: int, smooth: tuple[float, float]) -> Array:
    values, times = np.unique(knots[degree + 1 : -degree - 1], return_counts=True)
    return values[(degree - times >= smooth[0]) & (degree - times <= smooth[1])]


def _by_rulings(surface: Fitted, box: Array) -> FlatMap | None:
    """Where isolines of the parameters are straight and evenly run through, they are the rulings."""
    if isinstance(surface, Extrusion):
        inner = surface.breaks_u[(surface.breaks_u > box[0, 0]) & (surface.breaks_u < box[1, 0])]
        return ruled_flat(surface, 0, np.r_[box[0, 0], inner, box[1, 0]], (box[0, 1], box[1, 1]))
    if not isinstance(surface, SplineSurface):
        return None
    for axis, degree, knots, breaks in (
        (0, surface.degree_v, surface.knots_v, surface.breaks_u),
        (1, surface.degree_u, surface.knots_u, surface.breaks_v),
    ):
        weights = surface.weights
        even = weights is None or np.ptp(weights, axis=1 - axis).max() < 1e-12
        if degree == 1 and len(knots) == 4 and even:
            inner = breaks[(breaks > box[0, axis]) & (breaks < box[1, axis])]
            feet = np.r_[box[0, axis], inner, box[1, axis]]
            return ruled_flat(surface, axis, feet, (float(knots[1]), float(knots[2])))
    return None
