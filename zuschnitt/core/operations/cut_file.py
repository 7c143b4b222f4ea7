"""Cut file: the blank with its marks, ready for the laser."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from ..progress import Progress
from ..wording import counted, length, size
from .registry import Figure, Outcome, operation, source, sources

if TYPE_CHECKING:
    from ..contour import Contour


@operation(
    "cut_file",
    title="Cut file",
    stage="blank",
    group="Cut out",
    gives="drawing",
    takes="a blank and what is marked on it",
    makes="a drawing by layer, to write as DXF or SVG",
)
@dataclass(frozen=True)
class CutFile:
    blank: Any = source("blank", hint="the blank that is cut")
    marks: Any = sources("artwork", "traced", of="blank", hint="what is marked on it")

    sentence = "Cut {blank} out, with {marks}."

    def run(self, progress: Progress) -> Outcome:
        from ..contour import bounds

        contours = drawing(self.blank, self.marks)
        cut = [c for c in contours if c.layer == "CUT"]
        marked = [c for c in contours if c.layer != "CUT"]
        x0, y0, x1, y1 = bounds(contours)
        figures = (
            Figure("to cut", length(sum(c.length for c in cut)), "blank"),
            Figure("to mark", length(sum(c.length for c in marked)), "blank"),
            Figure("contours", f"{len(contours):,}", "blank"),
            Figure("size", size(x1 - x0, y1 - y0), "blank"),
        )
        layers = Counter(c.layer for c in contours)
        brief = " · ".join(f"{layer} {counted(count, 'contour')}" for layer, count in layers.items())
        return Outcome("drawing", contours, figures, (), brief)


def drawing(blank, marks) -> tuple[Contour, ...]:
    """Outline, folds and marks of a blank as contours by layer."""
    from ..artwork import Artwork

    contours = [*blank.outline, *blank.folds, *blank.marks]
    for mark in marks:
        if isinstance(mark, Artwork):
            contours.extend(mark.contours)
        else:
            contours.extend(traced_contour(curve) for curve in mark)
    return tuple(contours)


def traced_contour(curve) -> Contour:
    from ..contour import Contour

    points = curve.blank[:-1] if curve.closed else curve.blank
    return Contour.polyline(points, curve.closed, curve.layer, curve.name)
