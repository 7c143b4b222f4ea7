"""Make a tube: straight or as a cone, with a wall or solid."""

from __future__ import annotations

from typing import Any

from ..parameters import number
from ..progress import Progress
from ..results.result import Outcome
from .body_outcome import of_shape
from .registry import operation


@operation(
    "make_tube",
    title="Make a tube or cone",
    stage="form",
    group="Get a form",
    gives="form",
    takes="diameters, a length, a wall",
    makes="a tube, a cone or a bar, as a body",
    begins="make a tube from numbers",
)
class MakeTube:
    diameter: Any = number(80, "mm", "outer diameter at the lower end", low=0)
    height: Any = number(160, "mm", "how long it is", above=0)
    wall: Any = number(2, "mm", "thickness of the wall; 0 for a solid one", low=0)
    top: Any = number("", "mm", "outer diameter at the upper end", low=0, words="the same")

    sentence = "Make a tube {diameter} across and {height} long with a wall of {wall}."
    clauses = (("as a cone", "At its upper end it is {top} across."),)

    def run(self, progress: Progress) -> Outcome:
        from ..solids.primitives import tube

        top = self.diameter if self.top is None else self.top
        return of_shape(lambda: tube(self.diameter, top, self.height, self.wall), "tube", progress)
