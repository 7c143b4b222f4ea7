"""Trace: curves from the form to the blank."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..parameters import file, source
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
@dataclass(frozen=True)
class Trace:
    file: Any = file(".step", ".stp", ".json", hint="the curves, as STEP edges or JSON points")
    blank: Any = source("blank", hint="the blank they go to")

    sentence = "Trace {file} from the form to {blank}."

    def run(self, progress: Progress) -> Outcome:
        from ..carry.carried import deviation
        from ..carry.tracing import trace
        from ..files.curve_file import read_curves

        curves = read_curves(self.file.content, self.file.name)
        progress.step(0.5, "tracing")
        traced, messages = trace(self.blank.correspondence, curves)
        worst = max((deviation(self.blank.correspondence, c) for c in traced), default=0.0)
        return outcome(TracedResult(traced, worst), messages=messages)
