"""Move a relief: one of several drawn anew, as by dragging one of its ends on the form."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..errors import Refused
from ..progress import Progress
from ..wording import counted, length
from .registry import Figure, Outcome, number, operation, origin, points, source


@operation(
    "move_relief",
    title="Move a relief",
    stage="form",
    group="Develop",
    gives="reliefs",
    takes="reliefs, which of them, and points on the form",
    makes="the same reliefs, this one through the points",
)
@dataclass(frozen=True)
class MoveRelief:
    reliefs: Any = source("reliefs", hint="the reliefs of which one is moved")
    form: Any = origin("reliefs", "form")
    which: Any = number(1, "", "the number of the relief", low=1)
    through: Any = points("points yet to be clicked", "points on the form, from its edge inwards")

    sentence = "Move relief {which} of {reliefs}, so that it runs through {through}."

    def run(self, progress: Progress) -> Outcome:
        from .drawn_relief import drawn_relief

        place = round(self.which) - 1
        if place >= len(self.reliefs):
            there = counted(len(self.reliefs), "relief")
            raise Refused(f"There is no relief {place + 1}; there are {there}, so take one of them.")
        drawn = drawn_relief(self.form, self.through, "drag one of its ends")
        before = self.reliefs[place].length
        moved = (*self.reliefs[:place], drawn, *self.reliefs[place + 1 :])
        figures = (
            Figure("length", length(drawn.length), "form"),
            Figure("before", length(before), "form"),
            Figure("to cut", length(sum(relief.length for relief in moved)), "form"),
        )
        return Outcome("reliefs", moved, figures, (), f"relief {place + 1} of {len(moved)}")
