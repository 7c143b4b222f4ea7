"""Plan the bends of a file: the simulated press brake reads a flat as it came."""

from __future__ import annotations

from typing import Any

from ..parameters import file
from ..progress import Progress
from ..results.result import Outcome
from .registry import operation
from .shop_outcome import bent_by_press


@operation(
    "bend_file",
    title="Plan the bends of a file",
    stage="blank",
    group="Cut out",
    gives="brake_plan",
    takes="a flat from elsewhere, with its bend lines: DXF or SVG",
    makes="an order of its bends with their tools, by a simulated press brake that reads it as it is",
)
class BendFile:
    file: Any = file(".dxf", ".svg", hint="a flat with bend lines, DXF or SVG")

    sentence = "Plan the bends of {file}."

    def run(self, progress: Progress) -> Outcome:
        return bent_by_press(self.file.content, self.file.name, progress)
