"""Wrap: artwork from the blank onto the form."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..progress import Progress
from ..wording import counted, distance, length
from .registry import Figure, Outcome, operation, origin, source


@operation(
    "wrap",
    title="Wrap",
    stage="blank>form",
    group="Carry back",
    gives="wrapped",
    takes="artwork on a blank",
    makes="its curves on the true surface of the form",
)
@dataclass(frozen=True)
class Wrap:
    artwork: Any = source("artwork", hint="the artwork that is wrapped")
    blank: Any = origin("artwork", "blank")

    sentence = "Wrap {artwork} from its blank onto the form, as lines."

    def run(self, progress: Progress) -> Outcome:
        from ..carry.carried import deviation, wrapped_messages
        from ..carry.wrapping import wrap

        curves = wrap(self.blank.correspondence, self.artwork.contours, progress=progress.part(0, 0.7))
        progress.step(0.7, "measuring the deviation")
        worst = max((deviation(self.blank.correspondence, c) for c in curves), default=0.0)
        figures = (
            Figure("curves", f"{len(curves):,}", "form"),
            Figure("on the form", length(sum(c.length_form for c in curves)), "form"),
            Figure("on the blank", length(sum(c.length_blank for c in curves)), "blank"),
            Figure("deviation", distance(worst)),
        )
        brief = f"{counted(len(curves), 'curve')} · deviation {distance(worst)}"
        return Outcome("wrapped", curves, figures, wrapped_messages(curves), brief)
