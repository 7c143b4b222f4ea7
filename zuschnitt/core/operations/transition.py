"""Transition: from a rectangle to a circle, as between a square duct and a round one."""

from __future__ import annotations

from typing import Any

from ..parameters import number
from ..progress import Progress
from ..results.form import FormResult
from ..results.result import Outcome, outcome
from .registry import operation


@operation(
    "transition",
    title="Make a transition",
    stage="form",
    group="Get a form",
    gives="form",
    takes="a rectangle, a circle, how they stand to each other",
    makes="flat triangles and oblique cones that run into each other",
)
class Transition:
    length: Any = number(200, "mm", "length of the rectangle, along x", above=0)
    width: Any = number(160, "mm", "width of the rectangle, along y", above=0)
    diameter: Any = number(120, "mm", "diameter of the circle", above=0)
    height: Any = number(150, "mm", "height of the circle above the rectangle", above=0)
    x: Any = number(0, "mm", "how far the circle is off the middle, along x")
    y: Any = number(0, "mm", "how far the circle is off the middle, along y")

    sentence = "Run from a rectangle {length} by {width} to a circle of {diameter}, {height} above it."
    clauses = (("off the middle", "The circle is off the middle by {x}, {y}."),)

    def run(self, progress: Progress) -> Outcome:
        from ..developable.transition import transition

        offset = (self.x, self.y)
        form = transition(self.length, self.width, self.diameter, self.height, offset)
        return outcome(FormResult(form), messages=form.messages)
