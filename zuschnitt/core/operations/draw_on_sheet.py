"""Draw on a bare sheet: a drawing without a form."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..parameters import figures, number
from ..progress import Progress
from ..results.drawing import DrawingResult
from ..results.result import Outcome, outcome
from .draw_figures import as_artwork
from .registry import operation


@operation(
    "draw_on_sheet",
    title="Draw on a bare sheet",
    stage="blank",
    group="Mark",
    gives="drawing",
    takes="figures by number",
    makes="a drawing to cut, to place as artwork, or to make a form of",
)
@dataclass(frozen=True)
class DrawOnSheet:
    width: Any = number(200, "mm", "the sheet's width", above=0)
    height: Any = number(100, "mm", "the sheet's height", above=0)
    figures: Any = figures(hint="what is drawn")

    sentence = "Draw on a sheet of {width} × {height}: {figures}."

    def run(self, progress: Progress) -> Outcome:
        from ..figures.ground import Ground

        return outcome(DrawingResult(as_artwork(self.figures, Ground.bare(self.width, self.height)).contours))
