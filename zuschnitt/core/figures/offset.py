"""Figures moved outward or inward by a distance."""

from __future__ import annotations

from typing import Any

from ..errors import Refused
from ..parameters.choice import choice
from ..parameters.figure_numbers import figure_numbers
from ..parameters.number import number
from ..plane.contour import Contour
from .ground import Ground
from .registry import Figure, figure

CORNERS = {"round": "round corners", "sharp": "sharp corners"}


@figure("offset", title="Moved outward or inward", group="Make of others", says="at a distance from closed figures")
class Offset(Figure):
    of: Any = figure_numbers("the closed figures")
    distance: Any = number(5, "mm", "how far outward; below 0 inward")
    corners: Any = choice("round", CORNERS, "what becomes of corners that open")

    sentence = "{kind} a line {distance} outside of {of}, with {corners}."

    def draw(self, ground: Ground) -> list[Contour]:
        from ..plane.combining import united
        from ..plane.offsetting import moved_outward

        area = united([ground.drawn[number] for number in ground.members(self.of)])
        made = moved_outward(area, self.distance, sharp=self.corners == "sharp")
        if not made:
            raise Refused(f"nothing is left {-self.distance:g} mm inside of it; move it less.")
        return made
