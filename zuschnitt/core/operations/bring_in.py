"""Bring in: a form from a STEP file or a mesh."""

from __future__ import annotations

from typing import Any

from ..files.form_file import ENDINGS
from ..parameters import choice, file, number
from ..progress import Progress
from ..results.form import FormResult
from ..results.result import Outcome, outcome
from .registry import operation


@operation(
    "bring_in",
    title="Bring in",
    stage="form",
    group="Get a form",
    gives="form",
    takes="a STEP file or a mesh (STL, OBJ, PLY, 3MF)",
    makes="a form with faces one can pick",
    begins="bring in a STEP file",
)
class BringIn:
    file: Any = file(*ENDINGS, hint="the file of the part: STEP, STL, OBJ, PLY or 3MF")
    unit: Any = choice(
        "auto",
        {"auto": "its own unit", "mm": "mm", "cm": "cm", "m": "m", "in": "inches", "ft": "feet"},
        "the unit of a mesh file; STEP says its own, and where a mesh does not, it is guessed and said",
    )
    crease: Any = number(30, "°", "how much a mesh must turn for a face to end there", above=0, high=180)

    sentence = "Bring in {file}, in {unit}; a mesh has faces between creases of {crease}."

    def run(self, progress: Progress) -> Outcome:
        from ..files.form_file import read_form

        form = read_form(self.file.content, self.file.name, self.unit, self.crease, progress, self.file.path)
        return outcome(FormResult(form), messages=form.messages)
