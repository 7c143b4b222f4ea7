"""What is cut and marked of a blank, by layers."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from ..carry.carried import CarriedCurve
from ..cutting.order import ordered
from ..develop.blank import Blank
from ..plane.artwork import Artwork
from ..plane.contour import Contour


def drawing(blank: Blank, marks: Iterable[Artwork | Sequence[CarriedCurve]]) -> tuple[Contour, ...]:
    """Outline, folds and marks of a blank as contours by layer; an outline that was drawn anew takes its place.

    They are in the order in which they are cut, what lies within others first.
    """
    marks = list(marks)
    redrawn = any(isinstance(mark, Artwork) and mark.outline for mark in marks)
    contours = [*(() if redrawn else blank.outline), *blank.folds, *blank.marks]
    for mark in marks:
        if isinstance(mark, Artwork):
            contours.extend(mark.contours)
        else:
            contours.extend(traced_contour(curve) for curve in mark)
    return tuple(ordered(contours))


def traced_contour(curve: CarriedCurve) -> Contour:
    """A curve that was carried to the blank, as a contour on its layer."""
    points = curve.blank[:-1] if curve.closed else curve.blank
    return Contour.polyline(points, curve.closed, curve.layer, curve.name)
