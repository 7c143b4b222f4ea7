"""Take reliefs from curves: each curve of a file is a line at which a blank opens."""

from __future__ import annotations

from typing import Any

from ..errors import Refused
from ..parameters import optional_file, optional_source, source
from ..progress import Progress
from ..results.reliefs import ReliefsResult
from ..results.result import Outcome, outcome
from .registry import operation


@operation(
    "curve_reliefs",
    title="Take reliefs from curves",
    stage="form",
    group="Develop",
    gives="reliefs",
    takes="curves on a form: drawn, or from STEP or JSON",
    makes="lines at which a blank opens when it is developed with them",
)
class CurveReliefs:
    form: Any = source("form", hint="the form they lie on")
    file: Any = optional_file(
        *(".step", ".stp", ".json"),
        words="no file",
        hint="the curves, as STEP edges or JSON points, from the edge inwards",
        instead="curves",
    )
    curves: Any = optional_source("curves", words="no row", hint="curves that were drawn on the form")
    others: Any = optional_source("reliefs", words="no others", hint="reliefs that they are added to", on="form")

    sentence = "Take the curves of {file} as reliefs on {form}."
    clauses = (
        ("drawn curves", "The curves of {curves} come with them."),
        ("add them to others", "They are added to {others}."),
    )

    def run(self, progress: Progress) -> Outcome:
        from ..files.curve_file import read_curves
        from ..reliefs.relief import Relief

        curves = list(self.curves or ())
        if self.file is not None:
            curves += read_curves(self.file.content, self.file.name)
        if not curves:
            raise Refused("There are no curves to open at; choose a row that draws some, or a file.")
        return outcome(ReliefsResult((*(self.others or ()), *(Relief.along(curve.points) for curve in curves))))
