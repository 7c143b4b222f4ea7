"""Hold point and direction: how a blank lies in its plane."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

import numpy as np

from ..correspondence import MARGIN, Leaf, Rigid
from ..errors import Refused
from ..form.form import POLE, Coedge, Form
from ..form.locator import charted
from ..form.unwrapped import Unwrapped, plain_box
from ..geometry.curves import Array
from ..record import record
from ..tolerances import OFF_FORM, OUTLINE

STEP = 1e-4
"""How far along an edge its direction is looked at, as a part of it."""
RAYS = 361
RAY = 1e-3
"""How far off a pole its rays are looked at, as a part of the way to the middle of the face."""


@record
class Hold:
    """``point`` (3,) of the form that lies at the blank's origin, and ``along`` (3,) that becomes +x.

    Where one is None, it is the start of the first face's outline, and the direction of that outline.
    """

    point: Array | None = None
    along: Array | None = None


@record
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
        number = first.face.number
        uv, first_direction = _beginning(first)
    else:
        at = charted(unwrapped.values(), OUTLINE).nearest(np.asarray(hold.point, float)[None])
        number, uv = int(at.face[0]), at.uv
        if at.best[0] > OFF_FORM:
            messages.append(f"The hold point is {at.best[0]:.2f} mm off the picked faces; the nearest point holds.")
    face = unwrapped[number]
    surface = face.chart.surface
    normal = _normal(face, uv)
    if hold.along is not None:
        along = np.asarray(hold.along, float)
    else:
        along = first_direction if hold.point is None else _default_direction(face, uv)
    # at a pole there is no one tangent plane; of the rays from it, the nearest to the direction is taken
    tangent = along if _singular(face, uv) else along - (along @ normal) * normal
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


def _beginning(face: Unwrapped) -> tuple[Array, Array]:
    """Where a face is held when nothing is asked: parameters (1, 2) on its outline, and the direction (3,) it runs in.

    The first place of the outline at which the face has a normal and the outline a direction.
    """
    evaluate = face.chart.surface.evaluate
    walks = [c for c in face.loops[0] if c.edge != POLE]
    for part in (0.0, 0.5):
        for coedge in walks:
            t = coedge.start + (coedge.end - coedge.start) * np.array([part, part + STEP])
            along = _direction(face, coedge, t[:1])
            if np.linalg.norm(along) < STEP * face.face.area**0.5:  # the parameter stands still there
                here, there = evaluate(coedge.uv(t))
                along = (there - here) / STEP
            if not _singular(face, coedge.uv(t[:1])) and np.linalg.norm(along) > STEP * face.face.area**0.5:
                return coedge.uv(t[:1]), along
    number = face.face.number
    raise Refused(
        f"Face {number} has no edge from which a direction for x can be taken; give a hold point and a direction.",
        faces=[number],
    )


def _direction(face: Unwrapped, coedge: Coedge, t: Array) -> Array:
    """Where (3,) the outline runs at its parameter ``t`` (1,), with the length of the whole walk."""
    du, dv = face.chart.surface.derivatives(coedge.uv(t))
    slope = coedge.curve.derivative(t)[0] * (coedge.end - coedge.start)
    return slope[0] * du[0] + slope[1] * dv[0]


def _singular(face: Unwrapped, uv: Array) -> bool:
    """Whether the surface has no normal at ``uv`` (1, 2), as at a pole or where an edge is collapsed."""
    box = plain_box(face.face)
    middle = box.mean(axis=0)
    lengths = np.array([np.linalg.norm(d, axis=1) for d in face.chart.surface.derivatives(np.vstack([uv, middle]))])
    return bool((lengths[:, 0] < 1e-6 * lengths[:, 1]).any()) or bool(_flat_normal(face, uv) < 1e-9)


def _flat_normal(face: Unwrapped, uv: Array) -> float:
    """The sine of the angle between both directions of the surface; 0 where they fall together."""
    du, dv = (d[0] for d in face.chart.surface.derivatives(uv))
    spanned = float(np.linalg.norm(np.cross(du, dv)))
    return spanned / max(float(np.linalg.norm(du) * np.linalg.norm(dv)), 1e-300)


def _normal(face: Unwrapped, uv: Array) -> Array:
    """The outer normal (3,) at ``uv`` (1, 2); at a pole that of the face beside it, all round."""
    if not _singular(face, uv):
        return face.face.outward(uv)[0]
    mean = face.face.outward(_beside(face, uv)).sum(axis=0)
    return mean / max(float(np.linalg.norm(mean)), 1e-300)


def _beside(face: Unwrapped, uv: Array) -> Array:
    """Parameters (n, 2) a little off a singular place, on rays into the face."""
    low, high = plain_box(face.face)
    axis = int(np.argmin([np.linalg.norm(d[0]) for d in face.chart.surface.derivatives(uv)]))  # the collapsed one
    rays = np.linspace(low[axis], high[axis], RAYS)
    other = 1 - axis
    inner = uv[0, other] + RAY * ((low + high)[other] / 2 - uv[0, other])
    found = np.empty((RAYS, 2))
    found[:, axis], found[:, other] = rays, inner
    return found


def _default_direction(face: Unwrapped, uv: Array) -> Array:
    du, dv = face.chart.surface.derivatives(uv)
    return du[0] if np.linalg.norm(du) > 1e-9 else dv[0]


def motion_to_hold(leaves: Sequence[Leaf], faces: Iterable[Unwrapped], placed: Placed, size: float) -> Rigid:
    """The motion that brings the hold point to the origin and its direction to +x.

    A hold point on a seam lies at two places of the blank; the one that has the blank on its right is taken.
    """
    mine = [leaf for leaf in leaves if leaf.face == placed.face]
    leaf = next((leaf for leaf in mine if leaf.region.contains(leaf.chart.flatten(placed.uv[None]))[0]), mine[0])
    face = next((face for face in faces if face.face.number == placed.face), None)
    box = np.vstack([each.rings_blank for each in leaves])
    middle = (box.min(axis=0) + box.max(axis=0)) / 2
    found = [_motion(leaf, face, replace(placed, uv=uv), size) for uv in _same_places(leaf, placed.uv)]
    on_the_right = [float(np.round(motion.apply(middle[None])[0, 0], 6)) for motion in found]
    return found[int(np.argmax(on_the_right))]


def _same_places(leaf: Leaf, uv: Array) -> list[Array]:
    """The parameters (2,) in the leaf's chart that are the point at ``uv``: two where it lies on a seam."""
    surface, found = leaf.chart.surface, [uv]
    point = surface.evaluate(uv[None])
    low, high = leaf.region.box
    corners = leaf.chart.unflatten(np.array([low, high, [low[0], high[1]], [high[0], low[1]]]))
    for axis in (0, 1):
        period = surface.periods[axis] or float(np.ptp(corners[:, axis]))
        for turn in (-period, period):
            other = uv + turn * np.eye(2)[axis]
            if not np.isfinite(other).all() or not leaf.region.contains(leaf.chart.flatten(other[None]), MARGIN)[0]:
                continue
            if np.linalg.norm(surface.evaluate(other[None]) - point) < MARGIN:
                found.append(other)
    return found


def _motion(leaf: Leaf, face: Unwrapped | None, placed: Placed, size: float) -> Rigid:
    uv = placed.uv[None]
    if face is not None and _singular(face, uv):
        direction = _ray(leaf, face, placed)
    else:
        du, dv = (d[0] for d in leaf.chart.surface.derivatives(uv))
        step, *_ = np.linalg.lstsq(np.stack([du, dv], axis=1), placed.along, rcond=None)
        span = 1e-6 * size
        there = leaf.chart_to_blank(leaf.chart.flatten(np.stack([placed.uv - span * step, placed.uv + span * step])))
        direction = there[1] - there[0]
    cosine, sine = direction / np.linalg.norm(direction)
    turn = np.array([[cosine, sine], [-sine, cosine]])
    origin = leaf.chart_to_blank(leaf.chart.flatten(uv))[0]
    return Rigid(turn, -turn @ origin)


def _ray(leaf: Leaf, face: Unwrapped, placed: Placed) -> Array:
    """The direction (2,) on the blank of the ray from a pole that comes nearest to the direction asked for."""
    beside = _beside(face, placed.uv[None])
    rays = leaf.chart.surface.evaluate(beside) - placed.point
    rays /= np.maximum(np.linalg.norm(rays, axis=1, keepdims=True), 1e-300)
    best = int(np.argmax(rays @ placed.along))
    here, there = leaf.chart_to_blank(leaf.chart.flatten(np.stack([placed.uv, beside[best]])))
    return there - here
