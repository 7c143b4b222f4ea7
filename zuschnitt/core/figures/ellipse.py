"""An ellipse, as arcs that run on smoothly."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from ..parameters.number import number
from ..plane.contour import Contour
from .registry import Placed, figure


@figure("ellipse", title="Ellipse", group="Draw", says="by its length and width")
class Ellipse(Placed):
    length: Any = number(30, "mm", "its length", above=0)
    width: Any = number(18, "mm", "its width", above=0)

    measured: ClassVar = (("length", "along"), ("width", "across"))
    sentence = "{kind} an ellipse {length} × {width} at {x}, {y} from {place}, turned by {turn}."

    def shape(self) -> list[Contour]:
        from ..plane.smooth import as_arcs

        a, b = self.length / 2, self.width / 2

        def curve(t):
            c, s = np.cos(t), np.sin(t)
            return np.stack([a * c, b * s], axis=1), np.stack([-a * s, b * c], axis=1)

        return [as_arcs(curve, np.linspace(0, 2 * np.pi, 5), closed=True)]
