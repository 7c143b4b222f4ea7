"""Move: a form elsewhere in space, by numbers."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..parameters import direction, number, point, source
from ..progress import Progress
from ..results.form import FormResult
from ..results.result import Outcome, outcome
from .registry import operation


@operation(
    "move_form",
    title="Move and turn",
    stage="form",
    group="Bodies",
    gives="form",
    takes="a form, numbers",
    makes="the form elsewhere in space; its faces keep their numbers",
)
class MoveForm:
    form: Any = source("form", hint="what is moved")
    x: Any = number(0, "mm", "shifted along x")
    y: Any = number(0, "mm", "shifted along y")
    z: Any = number(0, "mm", "shifted along z")
    turn: Any = number(0, "°", "turned first, anticlockwise seen against the axis")
    axis: Any = direction("the z axis", "the direction it is turned round")
    through: Any = point("the origin", "a point of the axis")

    sentence = "Move {form} by {x}, {y}, {z}."
    clauses = (("turned", "First it is turned by {turn} round {axis} through {through}."),)

    def run(self, progress: Progress) -> Outcome:
        from ..form.moved import Motion

        axis = np.array(self.axis or (0.0, 0.0, 1.0))
        through = np.array(self.through or (0.0, 0.0, 0.0))
        motion = Motion.about(axis, self.turn, through, np.array([self.x, self.y, self.z]))
        return outcome(FormResult(motion.form(self.form)))
