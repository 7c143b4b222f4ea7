"""Areas of figures joined, taken away from one another, or what they have in common."""

from __future__ import annotations

from typing import Any, ClassVar

from ..errors import Refused
from ..parameters.choice import choice
from ..parameters.figure_numbers import figure_numbers
from ..plane.contour import Contour
from .ground import Ground
from .registry import Figure, figure

WAYS = {"joined": "joined with", "less": "less", "common": "as far as it lies in"}


@figure("combine", title="Joined or taken away", group="Make of others", says="areas of closed figures put together")
class Combine(Figure):
    of: Any = figure_numbers("the closed figures that it begins with")
    way: Any = choice("joined", WAYS, "how they are put together")
    other: Any = figure_numbers("the closed figures that are joined or taken away")

    uses_up: ClassVar[bool] = True
    sentence = "{kind} {of} {way} {other}."

    @property
    def made_of(self) -> tuple[int, ...]:
        return (*self.of, *self.other)

    def draw(self, ground: Ground) -> list[Contour]:
        from ..plane.combining import combined, united

        first = united([ground.drawn[n] for n in ground.members(self.of)])
        second = united([ground.drawn[n] for n in ground.members(self.other)])
        made = combined(first, second, self.way)
        if not made:
            raise Refused("nothing is left; choose other figures.")
        return made
