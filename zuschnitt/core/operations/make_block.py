"""Make a block: a body by its width, depth and height."""

from __future__ import annotations

from typing import Any

from ..parameters import number
from ..progress import Progress
from ..results.result import Outcome
from .body_outcome import of_shape
from .registry import operation


@operation(
    "make_block",
    title="Make a block",
    stage="form",
    group="Get a form",
    gives="form",
    takes="a width, a depth, a height",
    makes="a block, or a plate where it is thin",
)
class MakeBlock:
    width: Any = number(200, "mm", "its size along x", above=0)
    depth: Any = number(120, "mm", "its size along y", above=0)
    height: Any = number(40, "mm", "its size along z", above=0)

    sentence = "Make a block {width} wide, {depth} deep and {height} high."

    def run(self, progress: Progress) -> Outcome:
        from ..solids.primitives import block

        return of_shape(lambda: block(self.width, self.depth, self.height), "block", progress)
