"""The blank's own outline taken into the drawing: the cut file then takes this in its place."""

from __future__ import annotations

from typing import Any, ClassVar

from ..errors import Refused
from ..parameters.number import number
from ..plane.contour import Contour
from .ground import Ground
from .registry import Figure, figure


@figure(
    "outline",
    title="The blank's outline",
    group="Draw",
    says="to be moved outward, notched, rounded; it is cut instead of the blank's own",
)
class Outline(Figure):
    piece: Any = number(0, "", "which contour of the outline; 0 takes all", low=0)
    outward: Any = number(0, "mm", "moved outward by an allowance; below 0 inward")

    bounds_blank: ClassVar[bool] = True
    sentence = "{kind} the blank's outline (contour {piece}; 0 for all), moved outward by {outward}."

    def draw(self, ground: Ground) -> list[Contour]:
        from ..plane.offsetting import moved_outward

        number = int(self.piece)
        if self.piece != number or number > len(ground.outline):
            raise Refused(f"there is no contour {self.piece:g} of the outline; it has {len(ground.outline)}.")
        taken = list(ground.outline if number == 0 else ground.outline[number - 1 : number])
        return moved_outward(taken, self.outward) if self.outward else taken
