"""Bring a drawing in: its contours by layer."""

from __future__ import annotations

from typing import Any

from ..parameters import file
from ..progress import Progress
from ..results.drawing import DrawingResult
from ..results.result import Outcome, outcome
from .registry import operation


@operation(
    "bring_in_drawing",
    title="Bring a drawing in",
    stage="blank",
    group="Mark",
    gives="drawing",
    takes="an SVG or DXF drawing",
    makes="its contours by layer",
)
class BringInDrawing:
    file: Any = file(".svg", ".dxf", hint="an SVG or DXF drawing")

    sentence = "Bring the drawing of {file} in."

    def run(self, progress: Progress) -> Outcome:
        from ..files.artwork_file import read_artwork

        artwork = read_artwork(self.file.content, self.file.name, progress)
        return outcome(DrawingResult(artwork.contours), messages=artwork.messages)
