"""Panels between curves: from each curve to the next."""

from __future__ import annotations

from typing import Any

from ..errors import Refused
from ..parameters import optional_file, optional_source
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
    takes="two or more curves: drawn, or from STEP or JSON",
    makes="a smooth developable panel from each to the next",
)
class PanelsBetweenCurves:
    file: Any = optional_file(
        *(".step", ".stp", ".json"),
        words="no file",
        hint="the curves, as STEP edges or JSON points, in their order",
        instead="curves",
    )
    curves: Any = optional_source("curves", words="no row", hint="curves of a row, before those of the file")
    further: Any = optional_source("curves", words="no other row", hint="curves of another row, after those")
    nearest: Any = nearest_choice()

    sentence = "Span panels from each curve of {file} to the next, {nearest}."
    clauses = (("drawn curves", "Before them come the curves of {curves} and of {further}."),)

    def run(self, progress: Progress) -> Outcome:
        from ..files.curve_file import read_curves
        from ..panels.panels import panels

        curves = [*(self.curves or ()), *(self.further or ())]
        name = "panels"
        if self.file is not None:
            name = self.file.name
            curves += read_curves(self.file.content, self.file.name)
        if len(curves) < 2:
            raise Refused("Panels need two curves at least; choose rows that draw some, or a file of them.")
        return panel_outcome(panels([curve.points for curve in curves], self.nearest == "nearest", name, progress))
