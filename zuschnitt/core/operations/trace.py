"""Trace: curves from the form to the blank."""

from __future__ import annotations

from typing import Any

from ..errors import Refused
from ..parameters import optional_file, optional_source, source
from ..progress import Progress
from ..results.curves import TracedResult
from ..results.result import Outcome, outcome
from .registry import operation


@operation(
    "trace",
    title="Trace",
    stage="form>blank",
    group="Mark",
    gives="traced",
    takes="curves on the form, from STEP or JSON",
    makes="the same curves on the blank",
)
class Trace:
    file: Any = optional_file(
        ".step", ".stp", ".json", words="no file", hint="curves, as STEP edges or JSON points", instead="curves"
    )
    curves: Any = optional_source("curves", words="no row", hint="curves that were drawn on the form")
    blank: Any = source("blank", hint="the blank they go to")

    sentence = "Trace {file} from the form to {blank}."
    clauses = (("drawn curves", "The curves of {curves} come with it."),)

    def run(self, progress: Progress) -> Outcome:
        from ..carry.carried import deviation
        from ..carry.tracing import trace
        from ..files.curve_file import read_curves

        curves = list(self.curves or ())
        if self.file is not None:
            curves += read_curves(self.file.content, self.file.name)
        if not curves:
            raise Refused("There are no curves in it to trace; choose another row, or a file.")
        progress.step(0.5, "tracing")
        traced, messages = trace(self.blank.correspondence, curves)
        worst = deviation(self.blank.correspondence, traced)
        return outcome(TracedResult(traced, worst), messages=messages)
