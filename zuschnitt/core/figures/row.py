"""Figures repeated in a row."""

from __future__ import annotations

from typing import Any, ClassVar

from ..parameters.figure_numbers import figure_numbers
from ..parameters.number import number
from ..plane.contour import Contour
from .copies import MOST, copies, direction, whole_number
from .ground import Ground
from .registry import Figure, figure


@figure("row", title="In a row", group="Repeat", says="copies one after the other in a direction")
class Row(Figure):
    of: Any = figure_numbers("the figures that are repeated")
    count: Any = number(3, "", "how many in all", low=2, high=MOST)
    pitch: Any = number(20, "mm", "the distance from one to the next")
    angle: Any = number(0, "°", "the direction of the row")

    repeats: ClassVar[bool] = True
    sentence = "{kind} {count} of {of} in a row, {pitch} apart, in the direction of {angle}."

    def draw(self, ground: Ground) -> list[Contour]:
        step = self.pitch * direction(self.angle)
        return copies(ground.figures(self.of), (k * step for k in range(1, whole_number(self.count))))
