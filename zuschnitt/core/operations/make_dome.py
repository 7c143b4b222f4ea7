"""Make a dome: a cap of a ball, with a wall or solid."""

from __future__ import annotations

from typing import Any

from ..parameters import number
from ..progress import Progress
from ..results.result import Outcome
from .body_outcome import of_shape
from .registry import operation


@operation(
    "make_dome",
    title="Make a dome",
    stage="form",
    group="Get a form",
    gives="form",
    takes="a diameter, a height, a wall",
    makes="a cap of a ball, up to the whole ball, as a body",
)
class MakeDome:
    diameter: Any = number(160, "mm", "diameter of its rim", above=0)
    height: Any = number(50, "mm", "how high it rises over the rim", above=0)
    wall: Any = number(2, "mm", "thickness of the wall; 0 for a solid one", low=0)

    sentence = "Make a dome {diameter} across and {height} high with a wall of {wall}."

    def run(self, progress: Progress) -> Outcome:
        from ..solids.primitives import dome

        return of_shape(lambda: dome(self.diameter, self.height, self.wall), "dome", progress)
