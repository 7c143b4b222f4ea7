"""Make a patch anew: several faces as one clean patch with four sides."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..parameters import faces, identities, number, optional_points, source
from ..progress import Progress
from ..results.form import FormResult
from ..results.result import Figure, Outcome, outcome
from ..wording import distance
from .registry import operation


@operation(
    "clean_patch",
    title="Make a patch anew",
    stage="form",
    group="Get a form",
    gives="form",
    takes="faces: patchy, trimmed, or three-sided",
    makes="one clean patch with four sides, evenly spaced",
)
class MakePatchAnew:
    form: Any = source("form", hint="the form whose faces are made anew")
    faces: Any = faces("the faces it takes the place of: pick them on the form, or write all or 1, 4")
    tolerance: Any = number(0.05, "mm", "how far it may lie from the faces", above=0)
    corners: Any = optional_points(
        "its four sharpest corners", "four places of the outline, in their order; click them on the form"
    )
    remembered: Any = identities()

    sentence = "Make {faces} of {form} one clean patch that keeps within {tolerance} of them."
    clauses = (("corners", "It has its corners at {corners}."),)

    def run(self, progress: Progress) -> Outcome:
        from ..form.clean_patch import clean_patch
        from ..form.persistent_names import faces_again

        picked, said = faces_again(self.form, self.faces, self.remembered)
        if picked is None:
            picked = tuple(face.number for face in self.form.faces)
        corners = np.array(self.corners) if self.corners else None
        made = clean_patch(self.form, picked, self.tolerance, corners, progress)
        off = Figure("from the faces", distance(made.deviation_max), "form")
        return outcome(FormResult(made.form), messages=(*said, *made.messages), more=(off,))
