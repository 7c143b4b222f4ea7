"""Panels through free sections: planes square to a way over the form, wherever it is clicked."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..parameters import points, source
from ..progress import Progress
from ..results.result import Outcome
from .panel_outcome import nearest_choice, panel_outcome
from .registry import operation


@operation(
    "panels_along",
    title="Span panels along a way",
    stage="form",
    group="Get a form",
    gives="form",
    takes="a form, points on it where panels are to meet",
    makes="developable panels between sections square to the way through the points",
)
class PanelsAlong:
    form: Any = source("form", hint="the form that is cut into panels")
    through: Any = points("points yet to be clicked", "a point for each section, in order along the form")
    nearest: Any = nearest_choice()

    sentence = "Cut {form} at {through}, square to the way along them, and span panels from cut to cut, {nearest}."

    def run(self, progress: Progress) -> Outcome:
        from ..form_curves.sections import sections_along
        from ..panels.panels import panels

        curves = sections_along(self.form, np.array(self.through, float).reshape(-1, 3))
        name = f"panels of {self.form.name}"
        return panel_outcome(panels(curves, self.nearest == "nearest", name, progress.part(0.2, 1.0)))
