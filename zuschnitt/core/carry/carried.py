"""A curve on both sides: points of the form and of the blank that belong together."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np

from ..correspondence import Correspondence
from ..form.curves import Array, Line, Spline
from ..lazy import Lazy
from ..wording import listed

NODES, WEIGHTS = np.polynomial.legendre.leggauss(4)
STRAIGHT = 1e-10
"""Points that lie off the chord by no more than this part of it are on a straight line."""
CORNER = np.radians(30)
"""A polyline that turns by more than this at a point has a corner there."""


@dataclass(frozen=True)
class CarriedCurve(Lazy):
    """One curve on both sides: ``form`` (n, 3) and ``blank`` (n, 2) correspond point by point.

    ``inside`` (n,) tells which points lie on the blank; ``corners`` are indices of points where the
    curve is not smooth, its ends included; ``faces`` (n,) are the faces they are on. A closed curve
    ends in its first point. ``length_blank`` is in mm. ``part`` counts from 1 where a curve had to be
    divided because the other side is cut open there, and is 0 where it is whole.
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
    part: int = 0

    @cached_property
    def length_form(self) -> float:
        """Its length on the form in mm, along the smooth curves through its points."""
        return length_through(self.form, self.corners)

    @cached_property
    def splines(self) -> tuple[Spline | Line, ...]:
        """The curve on the form as smooth curves from corner to corner, through its points."""
        return splines_through(self.form, self.corners)


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


def deviation(correspondence: Correspondence, curves: Sequence[CarriedCurve]) -> float:
    """How far, in mm on the form, any of the curves lies from itself after blank and back again."""
    return correspondence.round_trip(np.vstack([np.zeros((0, 3)), *(curve.form[curve.inside] for curve in curves)]))


def part_name(name: str, part: int) -> str:
    """The name of a whole curve (``part`` 0), or of one of its parts."""
    return f"{name}, part {part}" if part else name


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


def wrapped_messages(curves: Sequence[CarriedCurve]) -> tuple[str, ...]:
    """What is to be said of curves that were carried onto the form."""
    return tuple(message for message in (outside_message(curves), divided_message(curves)) if message)


def divided_message(curves: Sequence[CarriedCurve]) -> str | None:
    """A sentence on curves that were divided, or None."""
    firsts = [i for i, curve in enumerate(curves) if curve.part == 1]
    if not firsts:
        return None
    names = [curves[i].name.removesuffix(", part 1") for i in firsts]
    parts = sum(1 for curve in curves if curve.part)
    return (
        f"{listed(names)} {'crosses' if len(names) == 1 else 'cross'} an edge at which the blank is cut open or a gap "
        f"between its pieces, so {parts} parts were made, in their order; move the seam where they should stay whole."
    )
