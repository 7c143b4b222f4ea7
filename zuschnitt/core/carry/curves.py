"""Curves from the blank onto the form (wrap), and from the form to the blank (trace)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..contour import Contour
from ..correspondence import Correspondence
from ..errors import Refused
from ..form.curves import Array, Line, Spline
from ..lazy import Lazy
from ..tolerances import CURVE, OFF_FORM

CORNER = np.radians(30)
"""A polyline that turns by more than this at a point has a corner there."""
ROUNDS = 12


@dataclass(frozen=True)
class CarriedCurve(Lazy):
    """One curve on both sides: ``form`` (n, 3) and ``blank`` (n, 2) correspond point by point.

    ``inside`` (n,) tells which points lie on the blank; ``corners`` are indices of points where the
    curve is not smooth, its ends included; ``faces`` (n,) are the faces they are on. A closed curve
    ends in its first point. ``length_blank`` is in mm.
    """

    name: str
    layer: str
    closed: bool
    form: Array
    blank: Array
    inside: np.ndarray
    faces: np.ndarray
    corners: np.ndarray
    length_blank: float

    @cached_property
    def length_form(self) -> float:
        """Its length on the form in mm, along the smooth curves through its points."""
        return sum(_length(spline) for spline in self.splines)

    @cached_property
    def splines(self) -> tuple[Spline | Line, ...]:
        """The curve on the form as smooth curves from corner to corner, through its points."""
        return tuple(
            smooth_through(self.form[a : b + 1]) for a, b in zip(self.corners[:-1], self.corners[1:], strict=True)
        )


def smooth_through(points: Array) -> Spline | Line:
    """A cubic spline through ``points`` (n, 3) by their chord lengths; a line through two."""
    from scipy.interpolate import make_interp_spline

    chords = np.linalg.norm(np.diff(points, axis=0), axis=1)
    points = points[np.r_[True, chords > 1e-12]]
    if len(points) <= 2:
        return Line.between(points[0], points[-1])
    t = np.r_[0, np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))]
    spline = make_interp_spline(t, points, min(3, len(points) - 1))
    return Spline(spline.t, spline.c, spline.k)


def _length(curve: Spline | Line) -> float:
    if isinstance(curve, Line):
        return float(np.linalg.norm(curve.direction))
    knots = np.unique(curve.knots)
    half = np.diff(knots)[:, None] / 2
    nodes, weights = np.polynomial.legendre.leggauss(4)
    speed = np.linalg.norm(curve.derivative((knots[:-1, None] + half * (nodes + 1)).ravel()), axis=1)
    return float((speed.reshape(len(half), -1) * half * weights).sum())


def wrap(
    correspondence: Correspondence,
    contours: Sequence[Contour],
    tolerance: float = CURVE,
) -> tuple[CarriedCurve, ...]:
    """The contours on the form: points so dense that chords stay within ``tolerance`` mm on both sides.

    What lies outside the blank is carried on the continued surface and marked as not inside.
    """
    contours = [contour for contour in contours if len(contour.points)]
    if not contours:
        return ()
    flat = [contour.flattened(tolerance) for contour in contours]
    owner = np.repeat(np.arange(len(flat)), [len(points) for points in flat])
    corner = np.concatenate([_corners(p, c) for p, c in zip(flat, contours, strict=True)])
    blank = np.vstack(flat)
    at = correspondence.to_form(blank)
    form, inside, faces = at.points, at.inside, at.face
    for _ in range(ROUNDS):
        span = np.nonzero(owner[:-1] == owner[1:])[0]
        middle = (blank[span] + blank[span + 1]) / 2
        halfway = correspondence.to_form(middle)
        sag = np.linalg.norm(halfway.points - (form[span] + form[span + 1]) / 2, axis=1)
        room = np.linalg.norm(blank[span + 1] - blank[span], axis=1) > 1e-4
        add = np.nonzero((sag > tolerance) & room)[0]
        if not len(add):
            break
        where = span[add] + 1
        blank = np.insert(blank, where, middle[add], axis=0)
        form = np.insert(form, where, halfway.points[add], axis=0)
        inside = np.insert(inside, where, halfway.inside[add])
        faces = np.insert(faces, where, halfway.face[add])
        owner = np.insert(owner, where, owner[span[add]])
        corner = np.insert(corner, where, False)
    starts = np.searchsorted(owner, np.arange(len(flat) + 1))
    return tuple(
        CarriedCurve(
            contour.name or f"curve {i + 1}", contour.layer, contour.closed,
            form[a:b], blank[a:b], inside[a:b], faces[a:b], np.nonzero(corner[a:b])[0],
            contour.length,
        )
        for i, (contour, a, b) in enumerate(zip(contours, starts[:-1], starts[1:], strict=True))
    )  # fmt: skip


def _corners(points: Array, contour: Contour) -> np.ndarray:
    """Which points of a flattened contour are corners; the ends always are."""
    corner = np.zeros(len(points), bool)
    corner[[0, -1]] = True
    if len(points) > 2:
        step = np.diff(points, axis=0)
        angle = np.arctan2(step[:, 1], step[:, 0])
        turn = np.abs((np.diff(angle) + np.pi) % (2 * np.pi) - np.pi)
        corner[1:-1] = turn > CORNER
        if contour.bulges.any():  # inside an arc there are none, however coarse it is
            vertices = {tuple(p) for p in contour.points}
            corner[1:-1] &= np.array([tuple(p) in vertices for p in points[1:-1]])
    return corner


def trace(
    correspondence: Correspondence, curves: Sequence[Array], names: Sequence[str] = (), layer: str = "MARK"
) -> tuple[tuple[CarriedCurve, ...], tuple[str, ...]]:
    """Polylines (n, 3) of the form on the blank, and messages on what is off the form or outside.

    Raises Refused for a curve without two points, or with numbers that are not finite.
    """
    carried, messages = [], []
    for i, given in enumerate(curves):
        name = names[i] if i < len(names) and names[i] else f"curve {i + 1}"
        points = np.asarray(given, float)
        if points.ndim != 2 or points.shape[1] != 3 or len(points) < 2:
            raise Refused(f"{name} needs at least two points of three numbers each; mend the file.")
        if not np.isfinite(points).all():
            raise Refused(f"{name} has numbers that are not finite; mend the file.")
        at = correspondence.to_blank(points)
        furthest = float(at.gap.max())
        if furthest > OFF_FORM:
            messages.append(f"{name} is up to {furthest:.3g} mm off the form; its nearest points were traced.")
        if not at.inside.all():
            messages.append(f"{name} leaves the developed faces.")
        closed = bool(np.linalg.norm(points[0] - points[-1]) < 1e-6)
        every = np.arange(len(points))  # as it was given: straight from point to point
        traced = float(np.linalg.norm(np.diff(at.points, axis=0), axis=1).sum())
        carried.append(CarriedCurve(name, layer, closed, points, at.points, at.inside, at.face, every, traced))
    return tuple(carried), tuple(messages)


def deviation(correspondence: Correspondence, curve: CarriedCurve) -> float:
    """How far, in mm on the form, the curve lies from itself after blank and back again."""
    return correspondence.round_trip(curve.form[curve.inside])


def outside_message(curves: Sequence[CarriedCurve]) -> str | None:
    """A sentence on curves that leave the blank, or None."""
    out = [curve for curve in curves if not curve.inside.all()]
    if not out:
        return None
    wholly = sum(1 for curve in out if not curve.inside.any())
    partly = len(out) - wholly
    parts = [f"{n} {how}" for n, how in ((partly, "partly"), (wholly, "wholly")) if n]
    return (
        f"Of {len(curves)} curves, {' and '.join(parts)} lie outside the blank; "
        "they are kept and drawn differently: move, scale or turn the artwork."
    )
