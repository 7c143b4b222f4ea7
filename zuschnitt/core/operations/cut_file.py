"""Cut file: the blank with its marks, ready for the laser."""

from __future__ import annotations

from typing import Any

from ..parameters import source, sources
from ..progress import Progress
from ..results.drawing import DrawingResult
from ..results.result import Outcome, outcome
from .registry import operation


@operation(
    "cut_file",
    title="Cut file",
    stage="blank",
    group="Cut out",
    gives="drawing",
    takes="a blank and what is marked on it",
    makes="a drawing by layer, to write as DXF or SVG",
)
class CutFile:
    blank: Any = source("blank", hint="the blank that is cut")
    marks: Any = sources("artwork", "traced", of="blank", hint="what is marked on it")

    sentence = "Cut {blank} out, with {marks}."

    def run(self, progress: Progress) -> Outcome:
        from ..shop.cut_drawing import drawing

        return outcome(DrawingResult(drawing(self.blank, self.marks)))
