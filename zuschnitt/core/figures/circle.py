"""A circle."""

from __future__ import annotations

from typing import Any, ClassVar

from ..parameters.number import number
from ..plane.contour import Contour
from .registry import Placed, figure


@figure("circle", title="Circle", group="Draw", says="by its diameter")
class Circle(Placed):
    diameter: Any = number(10, "mm", "its diameter", above=0)

    measured: ClassVar = (("diameter", "along"),)
    sentence = "{kind} a circle {diameter} across at {x}, {y} from {place}."

    def shape(self) -> list[Contour]:
        return [Contour.circle((0, 0), self.diameter / 2)]
