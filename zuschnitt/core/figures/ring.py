"""Figures repeated round a point."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from ..parameters.choice import choice
from ..parameters.figure_numbers import figure_numbers
from ..parameters.number import number
from ..parameters.place import place
from ..plane.contour import Contour, bounds
from .copies import MOST, whole_number
from .ground import Ground
from .registry import Figure, figure

TURNS = {"turning": "turning along", "upright": "kept upright"}


@figure("ring", title="Round a point", group="Repeat", says="copies evenly about a centre")
class Ring(Figure):
    of: Any = figure_numbers("the figures that are repeated")
    count: Any = number(6, "", "how many in all", low=2, high=MOST)
    angle: Any = number(360, "°", "over which angle they stand")
    x: Any = number(0, "mm", "the centre, along x")
    y: Any = number(0, "mm", "the centre, along y")
    place: Any = place("middle", "from where that is measured")
    turns: Any = choice("turning", TURNS, "whether copies turn along")

    repeats: ClassVar[bool] = True
    sentence = "{kind} {count} of {of} over {angle} about {x}, {y} from {place}, {turns}."

    def draw(self, ground: Ground) -> list[Contour]:
        count = whole_number(self.count)
        centre = ground.frame(self.place).at(self.x, self.y)
        whole = abs(abs(self.angle) - 360) < 1e-9
        step = np.radians(self.angle) / (count if whole else count - 1)
        taken = ground.figures(self.of)
        box = np.reshape(bounds(taken), (2, 2)).mean(axis=0)
        made: list[Contour] = []
        for k in range(1, count):
            turn = float(k * step)
            if self.turns == "turning":
                made.extend(c.moved(1.0, 0.0, -centre).moved(1.0, turn, centre) for c in taken)
            else:
                c, s = np.cos(turn), np.sin(turn)
                offset = np.array([[c, -s], [s, c]]) @ (box - centre) + centre - box
                made.extend(contour.moved(1.0, 0.0, offset) for contour in taken)
        return made
