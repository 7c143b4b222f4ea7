"""Bends that meet each other at a mitre: the sheet is cut there where its inner side ends."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..form.form import Coedge, Face, Form
from ..geometry.curves import Array
from ..geometry.surfaces import TURN, Cylinder
from .part import Roll
from .skins import Skins
from .unfolded import Unfolded
from .zones import Loop, Step, area, backwards, mapped_curve

NEAR = 1e-9


def mitred(
    form: Form, laid: Unfolded, side: Sequence[int], found: Skins, beyond: Sequence[int]
) -> dict[int, tuple[Loop, ...]]:
    """For each bend that meets another one along a crooked edge: what is cut off between the ends of both its skins.

    The flat is cut square to the sheet, so that a bend that ends on the followed side where it meets the other one
    would pass into it further in.
    """
    torn = set(laid.torn)
    zone_of = {number: k for k, zone in enumerate(laid.zones) for number in zone.faces}
    made: dict[int, list[Loop]] = {}
    for number in side:
        face = form.face(number)
        zone = laid.zones[zone_of[number]]
        if not isinstance(zone.roll, Roll):
            continue
        for step in zone.steps:
            if step.edge not in torn or number not in form.edge(step.edge).faces:
                continue
            inner = _twin(form, face, step, found, set(beyond))
            if inner is None:
                continue
            mapped = _in_zone(face, form.face(zone.faces[0]), zone.roll.neutral, *inner)
            loop = _between(step, mapped)
            if loop is not None:
                made.setdefault(zone_of[number], []).append(loop)
    return {k: tuple(loops) for k, loops in made.items()}


def _twin(form: Form, face: Face, step: Step, found: Skins, beyond: set[int]) -> tuple[Face, Coedge] | None:
    """The crooked end of the other skin that lies nearest to a step, on the face opposite."""
    edge = form.edge(step.edge)
    middle = edge.curve.evaluate(np.array([(edge.start + edge.end) / 2]))[0]
    best: tuple[float, Face, Coedge] | None = None
    for number in found.opposite.get(face.number, ()):
        other = form.face(number)
        if number not in beyond or not isinstance(other.surface, Cylinder):
            continue
        for loop in other.loops:
            for c in loop:
                if c.edge < 0 or form.edges[c.edge].smooth or len(set(form.edges[c.edge].faces) & beyond) < 2:
                    continue
                t = np.array([(c.start + c.end) / 2])
                away = float(np.linalg.norm(other.surface.evaluate(c.uv(t))[0] - middle))
                if best is None or away < best[0]:
                    best = away, other, c
    return None if best is None or best[0] > 4 * found.thickness else best[1:]


def _in_zone(face: Face, first: Face, neutral: float, other: Face, c: Coedge) -> Step:
    """A coedge of the face opposite in the plane of a zone: both are round one axis."""
    from .unfolded import into_zone

    a, b = face.surface, other.surface
    assert isinstance(a, Cylinder) and isinstance(b, Cylinder)
    same = 1.0 if a.frame.axes[2] @ b.frame.axes[2] > 0 else -1.0
    turns_alike = same * np.sign(np.linalg.det(a.frame.axes) * np.linalg.det(b.frame.axes))
    uv = c.uv(np.array([c.start]))
    at = a.project(b.evaluate(uv))[0]
    own = np.concatenate([k.uv(np.linspace(k.start, k.end, 9))[:, 0] for loop in face.loops for k in loop])
    shift_u = at[0] - turns_alike * uv[0, 0]
    shift_u += TURN * np.round(((own.min() + own.max()) / 2 - at[0]) / TURN)
    shift: Array = np.array([shift_u, at[1] - same * uv[0, 1]])
    curve = mapped_curve(c.curve, np.diag([turns_alike, same]), shift)
    matrix, offset = into_zone(face, first, neutral)
    return Step(mapped_curve(curve, matrix, offset), c.start, c.end)


def _between(outer: Step, inner: Step) -> Loop | None:
    """The loop between two steps that end beside each other; None where they are one."""
    if np.linalg.norm(outer.first - inner.first) > np.linalg.norm(outer.first - inner.last):
        inner = inner.backwards()
    steps = [outer, Step.between(outer.last, inner.last), inner.backwards(), Step.between(inner.first, outer.first)]
    loop = tuple(step for step in steps if not step.straight or step.length > NEAR)
    signed = area([loop])
    if abs(signed) <= NEAR:
        return None
    return loop if signed > 0 else backwards(loop)
