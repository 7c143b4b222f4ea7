"""Pocket: the outline of faces moved inward along them, cut out square to the surface."""

from __future__ import annotations

from typing import Any

from ..parameters import number, optional_number, origin, source
from ..progress import Progress
from ..results.curves import WrappedResult
from ..results.form import FormResult
from ..results.result import Outcome, outcome
from .body_outcome import changed
from .registry import operation


@operation(
    "pocket",
    title="Pocket",
    stage="blank>form",
    group="Bodies",
    gives=("form", "wrapped"),
    takes="the blank of some faces, a distance from their edge",
    makes="the body with a pocket in it; of open faces its outline",
)
class Pocket:
    blank: Any = source("blank", hint="the blank of the faces")
    form: Any = origin("blank", "form")
    inset: Any = number(5, "mm", "how far its outline is moved inward, along the surface", low=0)
    corner: Any = number(0, "mm", "the radius of its corners", low=0)
    deep: Any = optional_number("", "mm", "how deep it is cut; through where nothing is said", above=0, words="through")

    sentence = "Cut a pocket {inset} within the edge of {blank}, its corners rounded by {corner}, {deep}."

    def run(self, progress: Progress) -> Outcome:
        from ..carry.carried import wrapped_messages
        from ..carry.wrapping import wrap
        from ..develop.inset import inset
        from ..solids.pocketing import pocketed

        outline = inset(self.blank, self.inset, self.corner)
        curves = WrappedResult(wrap(self.blank.correspondence, outline))
        made = pocketed(self.form, self.blank, outline, self.deep, progress.part(0.1, 0.8))
        said = wrapped_messages(curves.value)
        if made is None:
            return outcome(FormResult(self.form), curves, messages=said)
        progress.step(0.8, "reading faces")
        return outcome(changed(self.form, made.made, self.form.name), curves, messages=(*said, *made.messages))
