"""A curve on both sides: points of the form and of the blank that belong together."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property

import numpy as np

from ..correspondence import Correspondence
from ..geometry.curves import Array, Line, Spline
from ..geometry.smooth import length_through, splines_through
from ..lazy import Lazy
from ..record import record
from ..wording import counted, listed

POLYLINE_CORNER = np.radians(30)
"""A polyline that turns by more than this at a point has a corner there."""


@record
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
        f"Of {counted(len(curves), 'curve')} {' and '.join(parts)} outside the blank; "
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
