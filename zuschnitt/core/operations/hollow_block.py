"""Hollow a block: a block of an outer size, hollowed to a thickness, with sides left off."""

from __future__ import annotations

from typing import Any

from ..parameters import number, several
from ..progress import Progress
from ..results.form import FormResult
from ..results.result import Outcome, outcome
from ..sheet.sides import SIDES
from .registry import operation

THINNEST = 0.001
"""No wall is thinner than this, in mm."""


@operation(
    "hollow_block",
    title="Hollow a block",
    stage="form",
    group="Sheet parts",
    gives="form",
    takes="a width, a depth, a height, a thickness",
    makes="a block hollowed to that thickness, with sides left off",
    begins="hollow a block from numbers",
)
class HollowBlock:
    width: Any = number(300, "mm", "outer size along x", above=0)
    depth: Any = number(180, "mm", "outer size along y", above=0)
    height: Any = number(60, "mm", "outer size along z", above=0)
    thickness: Any = number("thickness", "mm", "of its walls", low=THINNEST)
    off: Any = several("top", SIDES, "no side", "the sides that are left off")

    sentence = "Hollow a block {width} wide, {depth} deep and {height} high to {thickness}, without {off}."

    def run(self, progress: Progress) -> Outcome:
        from ..sheet.block import hollowed

        return outcome(FormResult(hollowed(self.width, self.depth, self.height, self.thickness, self.off)))
