"""Lay a bare sheet: a flat rectangle, to draw on without a form."""

from __future__ import annotations

from typing import Any

from ..parameters import number
from ..progress import Progress
from ..results.blank import BlankResult
from ..results.form import FormResult
from ..results.result import Outcome, outcome
from .registry import operation


@operation(
    "lay_sheet",
    title="Lay a bare sheet",
    stage="form>blank",
    group="Get a form",
    gives=("form", "blank"),
    takes="a width and a height",
    makes="a flat sheet to draw on, its lower left corner at the origin",
    begins="draw on a bare sheet",
)
class LaySheet:
    width: Any = number(200, "mm", "the sheet's width", above=0)
    height: Any = number(100, "mm", "the sheet's height", above=0)

    sentence = "Lay a bare sheet of {width} × {height}."

    def run(self, progress: Progress) -> Outcome:
        import numpy as np

        from ..develop.developing import develop
        from ..develop.placing import Hold
        from ..form.build import flat_sheet

        form = flat_sheet(self.width, self.height)
        blank = develop(form, [1], "exact", Hold(np.zeros(3), np.array([1.0, 0.0, 0.0])))
        return outcome(FormResult(form), BlankResult(blank))
