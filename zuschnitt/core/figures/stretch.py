"""Figures stretched in one direction, or in both."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any, ClassVar

import numpy as np

from ..contour import Contour
from ..parameters.figure_numbers import figure_numbers
from ..parameters.number import number
from ..parameters.place import place
from .ground import Ground
from .registry import Figure, figure

FINE = 1e-4
"""Arcs that do not stay round become lines within this, in mm."""


@figure("stretch", title="Stretched", group="Make of others", says="in one direction, or in both")
@dataclass(frozen=True)
class Stretch(Figure):
    of: Any = figure_numbers("the figures that are stretched")
    along: Any = number(2, "", "how many times as wide", above=0)
    across: Any = number(1, "", "how many times as high", above=0)
    place: Any = place("middle", "what stays where it is")

    uses_up: ClassVar[bool] = True
    sentence = "{kind} {of} stretched {along} times along x and {across} times along y from {place}."

    def draw(self, ground: Ground) -> list[Contour]:
        centre = ground.frame(self.place).origin
        factor = np.array([self.along, self.across])
        made = []
        for contour in ground.figures(self.of):
            points, bulges = contour.points, contour.bulges
            if bulges.any() and abs(self.along - self.across) > 1e-12:
                points = contour.flattened(FINE / max(self.along, self.across))[: -1 if contour.closed else None]
                bulges = np.zeros(len(points))
            made.append(replace(contour, points=centre + (points - centre) * factor, bulges=bulges))
        return made
