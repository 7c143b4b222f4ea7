"""Wrap: artwork from the blank onto the form."""

from __future__ import annotations

from typing import Any

from ..parameters import origin, source
from ..progress import Progress
from ..results.curves import WrappedResult
from ..results.result import Outcome, outcome
from .registry import operation


@operation(
    "wrap",
    title="Wrap",
    stage="blank>form",
    group="Carry back",
    gives="wrapped",
    takes="artwork on a blank",
    makes="its curves on the true surface of the form",
)
class Wrap:
    artwork: Any = source("artwork", hint="the artwork that is wrapped")
    blank: Any = origin("artwork", "blank")

    sentence = "Wrap {artwork} from its blank onto the form, as lines."

    def run(self, progress: Progress) -> Outcome:
        from ..carry.carried import deviation, wrapped_messages
        from ..carry.wrapping import wrap

        curves = wrap(self.blank.correspondence, self.artwork.contours, progress=progress.part(0, 0.7))
        progress.step(0.7, "measuring the deviation")
        worst = deviation(self.blank.correspondence, curves)
        return outcome(WrappedResult(curves, worst), messages=wrapped_messages(curves))
