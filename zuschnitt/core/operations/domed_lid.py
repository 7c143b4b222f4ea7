"""Domed lid: a doubly curved lid with round corners and a hole."""

from __future__ import annotations

from typing import Any

from ..parameters import number
from ..progress import Progress
from ..results.form import FormResult
from ..results.result import Outcome, outcome
from .registry import operation


@operation(
    "domed_lid",
    title="Dome a lid",
    stage="form",
    group="Get a form",
    gives="form",
    takes="length, width, crown, corners, hole",
    makes="a doubly curved lid",
    begins="dome a lid from numbers",
)
class DomedLid:
    length: Any = number(240, "mm", "length", above=0)
    width: Any = number(180, "mm", "width", above=0)
    crown: Any = number(40, "mm", "how much higher the middle is than the corners", above=0)
    corner: Any = number(40, "mm", "radius of the corners", low=0)
    hole: Any = number(60, "mm", "diameter of the hole; 0 for none", low=0)

    sentence = "Dome a lid {length} by {width}, {crown} high, with corners of {corner} and a hole of {hole}."

    def run(self, progress: Progress) -> Outcome:
        from ..form.build import domed_lid

        form = domed_lid(self.length, self.width, self.crown, self.corner, self.hole)
        return outcome(FormResult(form), messages=form.messages)
