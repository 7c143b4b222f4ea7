"""Panels between curves: from each curve of a file to the next."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..parameters import file
from ..progress import Progress
from ..results.result import Outcome
from .panel_outcome import nearest_choice, panel_outcome
from .registry import operation


@operation(
    "panels_between_curves",
    title="Span panels between curves",
    stage="form",
    group="Get a form",
    gives="form",
    takes="two or more curves, from STEP or JSON",
    makes="a smooth developable panel from each to the next",
)
@dataclass(frozen=True)
class PanelsBetweenCurves:
    file: Any = file(".step", ".stp", ".json", hint="the curves, as STEP edges or JSON points, in their order")
    nearest: Any = nearest_choice()

    sentence = "Span panels from each curve of {file} to the next, {nearest}."

    def run(self, progress: Progress) -> Outcome:
        from ..files.curve_file import read_curves
        from ..form.panels import panels

        curves = [curve.points for curve in read_curves(self.file.content, self.file.name)]
        return panel_outcome(panels(curves, self.nearest == "nearest", self.file.name, progress))
