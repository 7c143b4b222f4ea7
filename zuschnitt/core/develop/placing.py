"""Hold point and direction: how a blank lies in its plane."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..correspondence import Leaf, Rigid
from ..errors import Refused
from ..form.curves import Array
from ..form.form import Form
from ..form.unwrapped import Unwrapped
from ..tolerances import OFF_FORM


@dataclass(frozen=True)
class Hold:
    """``point`` (3,) of the form that lies at the blank's origin, and ``along`` (3,) that becomes +x.

    Where one is None, it is the start of the first face's outline, and the direction of that outline.
    """

    point: Array | None = None
    along: Array | None = None


@dataclass(frozen=True)
class Placed:
    """The hold point as used: its face, parameters (2,), point, direction and outer normal (3,)."""

    face: int
    uv: Array
    point: Array
    along: Array
    normal: Array


def locate_hold(form: Form, unwrapped: dict[int, Unwrapped], hold: Hold) -> tuple[Placed, tuple[str, ...]]:
    """Where the hold point lies on the picked faces; messages tell what is odd about it.

    Raises Refused where the direction is square to the form.
    """
    messages = []
    if hold.point is None:
        first = next(iter(unwrapped.values()))
        coedge = first.loops[0][0]
        number = first.face.number
        uv = coedge.ends[:1]
    else:
        point = np.asarray(hold.point, float)[None]
        best = np.inf
        for face_number, face in unwrapped.items():
            chart = face.chart
            here = chart.within(chart.surface.project(point))
            gap = float(np.linalg.norm(chart.surface.evaluate(here) - point))
            region, xy = face.region(0.01), chart.flatten(here)
            gap += 0.0 if region.contains(xy, 1e-6)[0] else float(region.distance(xy)[0])
            if gap < best - 1e-9:
                best, number, uv = gap, face_number, here
        if best > OFF_FORM:
            messages.append(f"The hold point is {best:.2f} mm off the picked faces; the nearest point holds.")
    face = unwrapped[number]
    surface = face.chart.surface
    normal = face.face.outward(uv)[0]
    if hold.along is not None:
        along = np.asarray(hold.along, float)
    else:
        along = _first_direction(face) if hold.point is None else _default_direction(face, uv)
    tangent = along - (along @ normal) * normal
    if np.linalg.norm(along) == 0 or np.linalg.norm(tangent) < 1e-6 * np.linalg.norm(along):
        raise Refused(
            f"The direction for x stands square to face {number} at the hold point; "
            "choose a direction that lies along the face.",
            faces=[number],
        )
    return (
        Placed(number, uv[0], surface.evaluate(uv)[0], tangent / np.linalg.norm(tangent), normal),
        tuple(messages),
    )


def _first_direction(face: Unwrapped) -> Array:
    coedge = face.loops[0][0]
    start = np.array([coedge.start])
    du, dv = face.chart.surface.derivatives(coedge.uv(start))
    slope = coedge.curve.derivative(start)[0] * (-1 if coedge.backwards else 1)
    return slope[0] * du[0] + slope[1] * dv[0]


def _default_direction(face: Unwrapped, uv: Array) -> Array:
    du, dv = face.chart.surface.derivatives(uv)
    return du[0] if np.linalg.norm(du) > 1e-9 else dv[0]


def motion_to_hold(leaves: Sequence[Leaf], placed: Placed, size: float) -> Rigid:
    """The motion that brings the hold point to the origin and its direction to +x."""
    uv = placed.uv[None]
    mine = [leaf for leaf in leaves if leaf.face == placed.face]
    leaf = next((leaf for leaf in mine if leaf.region.contains(leaf.chart.flatten(uv))[0]), mine[0])
    surface = leaf.chart.surface
    du, dv = (d[0] for d in surface.derivatives(uv))
    step, *_ = np.linalg.lstsq(np.stack([du, dv], axis=1), placed.along, rcond=None)
    span = 1e-6 * size
    there = leaf.chart_to_blank(leaf.chart.flatten(np.stack([placed.uv - span * step, placed.uv + span * step])))
    direction = there[1] - there[0]
    cosine, sine = direction / np.linalg.norm(direction)
    turn = np.array([[cosine, sine], [-sine, cosine]])
    origin = leaf.chart_to_blank(leaf.chart.flatten(uv))[0]
    return Rigid(turn, -turn @ origin)
