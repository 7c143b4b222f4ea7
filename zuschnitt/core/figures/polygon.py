"""A regular polygon."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from ..errors import Refused
from ..parameters.number import number
from ..plane.contour import Contour
from .registry import Placed, figure

MOST = 360


@figure("polygon", title="Regular polygon", group="Draw", says="by its number of sides and its width over flats")
class Polygon(Placed):
    sides: Any = number(6, "", "how many sides it has", low=3, high=MOST)
    across: Any = number(20, "mm", "the diameter of the circle inside it", above=0)

    measured: ClassVar = (("across", "across"),)
    sentence = (
        "{kind} a polygon of {sides} sides round a circle {across} across, at {x}, {y} from {place}, turned by {turn}."
    )

    def shape(self) -> list[Contour]:
        if self.sides != int(self.sides):
            raise Refused(f"a polygon of {self.sides:g} sides cannot be drawn; give it a whole number of them.")
        count = int(self.sides)
        angle = np.pi / count + 2 * np.pi * np.arange(count) / count - np.pi / 2
        reach = self.across / 2 / np.cos(np.pi / count)
        return [Contour.polyline(reach * np.stack([np.cos(angle), np.sin(angle)], axis=1), closed=True)]
