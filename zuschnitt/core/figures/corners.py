"""Corners of figures rounded or cut off."""

from __future__ import annotations

from typing import Any, ClassVar

from ..parameters.choice import choice
from ..parameters.figure_numbers import FigureNumbers, figure_numbers
from ..parameters.number import number
from ..parameters.parameter import stands_in
from ..plane.contour import Contour
from .ground import Ground
from .registry import Figure, figure

WAYS = {"round": "Round", "chamfer": "Cut off"}


@figure("corners", title="Round or cut off corners", group="Make of others", says="of figures, all or some")
class Corners(Figure):
    of: Any = figure_numbers("the figures whose corners are changed")
    way: Any = choice("round", WAYS, "whether corners are rounded or cut off")
    size: Any = number(3, "mm", "the radius, or how much is cut off along each side", above=0)
    corners: Any = stands_in(
        FigureNumbers(words="all corners", hint="which corners, counted along the figure", noun="corner")
    )

    uses_up: ClassVar[bool] = True
    sentence = "{way} {corners} of {of} by {size}; {kind} what is made."

    def draw(self, ground: Ground) -> list[Contour]:
        from ..plane.corners import chamfered, corners, rounded

        change = rounded if self.way == "round" else chamfered
        taken = ground.figures(self.of)
        return [change(c, self.size, self.corners) if self.corners or len(corners(c)) else c for c in taken]
