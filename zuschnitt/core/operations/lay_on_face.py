"""Lay on a face: a form moved so that one of its flat faces lies against one of another form."""

from __future__ import annotations

from typing import Any

from ..errors import Lacking, Refused
from ..parameters import needed_faces, number, some_of, source
from ..progress import Progress
from ..results.form import FormResult
from ..results.result import Outcome, outcome
from .registry import operation


@operation(
    "lay_on_face",
    title="Lay on a face",
    stage="form",
    group="Bodies",
    gives="form",
    takes="two forms, a flat face of each",
    makes="the first one moved, so that the faces lie against each other, a gap apart",
)
class LayOnFace:
    form: Any = source("form", hint="what is moved")
    face: Any = needed_faces("face yet to be picked", "the flat face of it that comes to lie against the other")
    other: Any = source("form", hint="what it is laid on")
    onto: Any = some_of("other", "face yet to be named", "the flat face it is laid on, by its number")
    gap: Any = number(0, "mm", "how far apart the faces stay")
    turn: Any = number(0, "°", "turned on that face")
    across: Any = number(0, "mm", "shifted across, from the middle of that face")
    up: Any = number(0, "mm", "shifted upwards, from the middle of that face")

    sentence = "Lay {face} of {form} on {onto} of {other}, {gap} apart."
    clauses = (("turned and shifted", "On it, it is turned by {turn}, and lies {across} across, {up} up."),)

    def run(self, progress: Progress) -> Outcome:
        from ..form.mating import laid_on

        if not self.onto:
            raise Lacking("Lay on a face waits for the other form's face; type its number.")
        if len(self.face) != 1 or len(self.onto) != 1:
            raise Refused("One face of each form is needed; pick that of the first, and type the number of the other.")
        motion = laid_on(self.form, self.face[0], self.other, self.onto[0], self.gap, self.turn, (self.across, self.up))
        return outcome(FormResult(motion.form(self.form)))
