"""Cut into the form: a drawing on a blank becomes holes and edges of its form."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from ..parameters import origin, source
from ..progress import Progress
from ..results.cut_form import CutFormResult
from ..results.result import Outcome, outcome
from ..wording import counted
from .registry import operation


@operation(
    "cut_into_form",
    title="Cut into the form",
    stage="blank>form",
    group="Carry back",
    gives="form",
    takes="a drawing on a blank",
    makes="the form with its holes and edges, on the true surfaces",
)
class CutIntoForm:
    artwork: Any = source("artwork", hint="the drawing; closed figures to cut become holes, others divide the faces")
    blank: Any = origin("artwork", "blank")
    form: Any = origin("artwork", "form")

    sentence = "Cut {artwork} into the form of its blank."

    def run(self, progress: Progress) -> Outcome:
        from ..carry.cutting import cut_into

        drawing, messages = self.artwork.contours, []
        if not self.artwork.layered:
            drawing = tuple(replace(c, layer="CUT") if c.closed else c for c in drawing)
            closed = sum(c.closed for c in drawing)
            messages.append(f"The drawing names no layers, so its {counted(closed, 'closed figure')} were cut out.")
        made = cut_into(self.form, self.blank, drawing, progress)
        return outcome(CutFormResult(made.form, made.holes), messages=(*messages, *made.messages))
