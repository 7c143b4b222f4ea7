"""Bring curves in: the curves in space, for rows that take some."""

from __future__ import annotations

from typing import Any

from ..parameters import file
from ..progress import Progress
from ..results.result import Outcome, outcome
from ..results.space_curves import CurvesResult
from .registry import operation


@operation(
    "bring_in_curves",
    title="Bring curves in",
    stage="form",
    group="Mark",
    gives="curves",
    takes="a file of curves, STEP edges or JSON points",
    makes="the curves in space, for rows that take some",
)
class BringInCurves:
    file: Any = file(".step", ".stp", ".json", hint="a file of curves, STEP edges or JSON points")

    sentence = "Bring the curves of {file} in."

    def run(self, progress: Progress) -> Outcome:
        from ..files.curve_file import read_curves

        return outcome(CurvesResult(tuple(read_curves(self.file.content, self.file.name))))
