"""Figures mirrored over a line."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..parameters.figure_numbers import figure_numbers
from ..parameters.number import number
from ..parameters.place import place
from ..plane.contour import Contour
from .ground import Ground
from .registry import Figure, figure


@figure("mirror", title="Mirrored over a line", group="Repeat", says="through the middle, an edge, a bend line")
class Mirror(Figure):
    of: Any = figure_numbers("the figures that are mirrored")
    place: Any = place("middle", "what the line goes through")
    angle: Any = number(90, "°", "the line's direction, from that of x there")

    sentence = "{kind} {of} mirrored over a line through {place} at {angle}."

    def draw(self, ground: Ground) -> list[Contour]:
        frame = ground.frame(self.place)
        turn = frame.turn + float(np.radians(self.angle))
        made = []
        for contour in ground.figures(self.of):
            back = contour.moved(1.0, 0.0, -frame.origin).moved(1.0, -turn)
            made.append(back.moved(1.0, turn, frame.origin, mirror=True).reversed())
        return made
