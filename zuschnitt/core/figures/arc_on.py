"""An arc that goes on from the end of another figure in its direction."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..errors import Refused
from ..parameters.figure_numbers import figure_numbers
from ..parameters.number import number
from ..parameters.place import place
from ..plane.contour import Contour
from .ground import Ground
from .registry import Figure, figure


@figure(
    "arc_on", title="Arc that goes on", group="Draw", says="from the end of another figure in its direction, to a point"
)
class ArcOn(Figure):
    of: Any = figure_numbers("the open figure it goes on from")
    x: Any = number(20, "mm", "where it ends, along x")
    y: Any = number(20, "mm", "where it ends, along y")
    place: Any = place("origin", "from where that is measured")

    sentence = "{kind} an arc that goes on from the end of {of} to {x}, {y} from {place}."

    def draw(self, ground: Ground) -> list[Contour]:
        from ..plane.spans import Spans

        before = [contour for contour in ground.figures(self.of) if not contour.closed]
        if not before:
            raise Refused("a closed figure has no end to go on from; name an open one.")
        spans = Spans.of(before[-1:])
        start = spans.end[-1]
        way = spans.direction(np.ones(len(spans)))[-1]
        end = ground.frame(self.place).at(self.x, self.y)
        chord = end - start
        if np.linalg.norm(chord) < 1e-7:
            raise Refused("it ends where it begins; move its end.")
        half = np.arctan2(way[0] * chord[1] - way[1] * chord[0], way @ chord)
        if abs(abs(half) - np.pi) < 1e-9:
            raise Refused("its end lies straight behind its begin; move it aside.")
        return [Contour(np.array([start, end]), np.array([np.tan(half / 2), 0.0]), False)]
