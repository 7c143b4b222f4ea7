"""Panels through sections: a doubly curved form, such as an awning or a hull, in developable strips."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..errors import Refused
from ..parameters import direction, number, source
from ..progress import Progress
from ..results.result import Outcome
from .panel_outcome import nearest_choice, panel_outcome
from .registry import operation


@operation(
    "panels_through_sections",
    title="Span panels through sections",
    stage="form",
    group="Get a form",
    gives="form",
    takes="a form, a direction, a number of panels",
    makes="developable panels between its level sections, with marks where they join",
)
class PanelsThroughSections:
    form: Any = source("form", hint="the form that is cut into panels")
    count: Any = number(5, "", "how many panels", low=1, high=200)
    across: Any = direction("its height", "the direction square to the sections")
    nearest: Any = nearest_choice()

    sentence = "Cut {form} square to {across} and span {count} panels from section to section, {nearest}."

    def run(self, progress: Progress) -> Outcome:
        from ..form_curves.sections import left_open, level_sections
        from ..panels.panels import panels

        normal = np.array(self.across if self.across is not None else (0.0, 0.0, 1.0))
        if not np.linalg.norm(normal) > 0:
            raise Refused("The direction square to the sections has no length; give another.")
        curves = level_sections(self.form, normal, round(self.count))
        name = f"panels of {self.form.name}"
        made = panels(curves, self.nearest == "nearest", name, progress.part(0.2, 1.0))
        return panel_outcome(made, left_open(self.form, normal, curves))
