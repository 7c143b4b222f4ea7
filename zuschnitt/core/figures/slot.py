"""A slot: two half circles and the lines between them."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from ..errors import Refused
from ..parameters.number import number
from ..plane.contour import Contour
from .registry import Placed, figure


@figure("slot", title="Slot", group="Draw", says="by its length over all and its width")
class Slot(Placed):
    length: Any = number(40, "mm", "its length over all", above=0)
    width: Any = number(12, "mm", "its width", above=0)

    measured: ClassVar = (("length", "along"), ("width", "across"))
    sentence = "{kind} a slot {length} × {width} at {x}, {y} from {place}, turned by {turn}."

    def shape(self) -> list[Contour]:
        half, r = self.length / 2 - self.width / 2, self.width / 2
        if half < -1e-12:
            raise Refused(f"a slot {self.width:g} mm wide is longer than {self.length:g} mm; lengthen it.")
        if half < 1e-9:
            return [Contour.circle((0, 0), r)]
        points = np.array([[-half, -r], [half, -r], [half, r], [-half, r]])
        return [Contour(points, np.array([0.0, 1.0, 0.0, 1.0]), True)]
