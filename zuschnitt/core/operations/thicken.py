"""Thicken: a blank as a solid sheet with recesses, flat or bent back to the form."""

from __future__ import annotations

from typing import Any

from ..parameters import choice, number, optional_source, origin, source
from ..progress import Progress
from ..results.bodies import BodiesResult
from ..results.result import Outcome, outcome
from .registry import operation


@operation(
    "thicken",
    title="Thicken",
    stage="blank>form",
    group="Bodies",
    gives="form",
    takes="a blank, a thickness, a drawing of recesses",
    makes="the blank as a solid, flat or bent back to the form",
)
class Thicken:
    blank: Any = source("blank", hint="the blank that gets a thickness")
    form: Any = origin("blank", "form")
    thickness: Any = number("thickness", "mm", "from the blank to its outer side", above=0)
    recess: Any = optional_source("artwork", words="no drawing", hint="closed outlines that are sunk", on="blank")
    deep: Any = number(0.5, "mm", "how deep the recesses are, from the outer side", above=0)
    shape: Any = choice("flat", {"flat": "flat", "formed": "bent to the form"}, "flat, or bent back to the form")

    sentence = "Thicken {blank} to {thickness}, {shape}."
    clauses = (("recesses", "The outlines of {recess} are sunk by {deep}."),)

    def run(self, progress: Progress) -> Outcome:
        from ..solids.bodies import form_of_bodies
        from ..solids.by_mesh import said_of
        from ..solids.thickening import thickened

        recess = () if self.recess is None else self.recess.contours
        formed = self.shape == "formed"
        made, messages = thickened(
            self.form, self.blank, self.thickness, recess, self.deep, formed, progress.part(0, 0.8)
        )
        progress.step(0.8, "reading faces")
        return outcome(BodiesResult(form_of_bodies(made, "blank"), made), messages=(*messages, *said_of(made)))
