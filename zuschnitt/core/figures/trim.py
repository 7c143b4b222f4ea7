"""A figure trimmed where others cross it."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from ..errors import Refused
from ..parameters.figure_numbers import figure_numbers
from ..parameters.number import number
from ..parameters.place import place
from ..plane.contour import Contour
from .ground import Ground
from .registry import Figure, figure


@figure("trim", title="Trimmed where others cross", group="Make of others", says="without the part nearest to a point")
class Trim(Figure):
    of: Any = figure_numbers("the figure that is trimmed")
    by: Any = figure_numbers("the figures that cross it")
    x: Any = number(0, "mm", "a point by the part that goes, along x")
    y: Any = number(0, "mm", "a point by the part that goes, along y")
    place: Any = place("origin", "from where that is measured")

    uses_up: ClassVar[bool] = True
    sentence = "{kind} {of} without the part at {x}, {y} from {place}, between its crossings with {by}."

    def draw(self, ground: Ground) -> list[Contour]:
        from ..plane.trimming import without_part

        point = ground.frame(self.place).at(self.x, self.y)
        taken = ground.figures(self.of)
        if set(self.of) & set(self.by):
            raise Refused("it cannot be trimmed by itself; name figures that cross it.")
        if len(taken) != 1:
            raise Refused("one contour at a time is trimmed; name a figure that is a single one.")
        return without_part(taken[0], ground.figures(self.by), np.asarray(point))
