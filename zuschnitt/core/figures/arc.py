"""An arc by its centre, its radius and two angles."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..parameters.number import number
from ..plane.contour import Contour
from .registry import Placed, figure


@figure("arc", title="Arc about a centre", group="Draw", says="by its radius and where it begins and ends")
class Arc(Placed):
    radius: Any = number(20, "mm", "its radius", above=0)
    begin: Any = number(0, "°", "the direction in which it begins")
    end: Any = number(90, "°", "the direction in which it ends, anticlockwise from there")

    sentence = "{kind} an arc of radius {radius} from {begin} to {end}, its centre at {x}, {y} from {place}."

    def shape(self) -> list[Contour]:
        begin, sweep = np.radians(self.begin), np.radians((self.end - self.begin) % 360)
        if sweep == 0:
            return [Contour.circle((0, 0), self.radius)]
        angles = begin + sweep * np.arange(3) / 2
        points = self.radius * np.stack([np.cos(angles), np.sin(angles)], axis=1)
        return [Contour(points, np.array([1, 1, 0]) * np.tan(sweep / 8), False)]
