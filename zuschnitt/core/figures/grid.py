"""Figures repeated in a grid."""

from __future__ import annotations

from typing import Any, ClassVar

from ..errors import Refused
from ..parameters.figure_numbers import figure_numbers
from ..parameters.number import number
from ..plane.contour import Contour
from .copies import MOST, copies, direction, whole_number
from .ground import Ground
from .registry import Figure, figure


@figure("grid", title="In a grid", group="Repeat", says="copies along two directions")
class Grid(Figure):
    of: Any = figure_numbers("the figures that are repeated")
    count: Any = number(3, "", "how many along x", low=1, high=MOST)
    pitch: Any = number(20, "mm", "the distance along x")
    rows: Any = number(2, "", "how many along y", low=1, high=MOST)
    rise: Any = number(20, "mm", "the distance along y")
    angle: Any = number(0, "°", "how far the grid is turned")

    repeats: ClassVar[bool] = True
    sentence = "{kind} {count} × {rows} of {of} in a grid, {pitch} and {rise} apart, turned by {angle}."

    def draw(self, ground: Ground) -> list[Contour]:
        count, rows = whole_number(self.count), whole_number(self.rows)
        if count * rows > MOST:
            raise Refused(f"{count * rows:,} copies are too many; at most {MOST:,}.")
        along, up = self.pitch * direction(self.angle), self.rise * direction(self.angle + 90)
        steps = (i * along + j * up for j in range(rows) for i in range(count) if i or j)
        return copies(ground.figures(self.of), steps)
