"""Lay by hand: parts of a nest moved, turned, put on another sheet."""

from __future__ import annotations

from typing import Any

from ..parameters import choice, laid_parts, source
from ..progress import Progress
from ..results.result import Outcome
from .nest_outcome import nest_outcome, searched
from .registry import operation


@operation(
    "arrange_parts",
    title="Lay by hand",
    stage="blank",
    group="Cut out",
    gives="nest",
    takes="a nest, where some of its parts are to lie",
    makes="the same with these parts there, what lies too near shown, or the others laid anew round them",
)
class ArrangeParts:
    nest: Any = source("nest", hint="the nest whose parts are moved")
    moves: Any = laid_parts("no part yet", "parts and where they lie: part*copy:sheet:x:y:turn")
    others: Any = choice("stay", {"stay": "stay where they are", "anew": "are laid anew round these"}, "the others")

    sentence = "Of {nest}, lay {moves} by hand; the others {others}."

    def run(self, progress: Progress) -> Outcome:
        from ..nesting.by_hand import arranged, laid_by_hand

        nest = self.nest
        if self.others == "stay":
            return nest_outcome(arranged(nest, self.moves) if self.moves else nest)
        laid = laid_by_hand(nest, self.moves)
        fixed = [(sheet, placed) for sheet, placed, by_hand in laid if by_hand]
        rest = [*(placed.part for _, placed, by_hand in laid if not by_hand), *nest.left]
        return searched(nest, rest, progress, fixed)
