"""A rectangle, its corners sharp or rounded."""

from __future__ import annotations

from typing import Any, ClassVar

from ..parameters.number import number
from ..plane.contour import Contour
from .registry import Placed, figure


@figure("rectangle", title="Rectangle", group="Draw", says="by its width and height, corners rounded if wanted")
class Rectangle(Placed):
    width: Any = number(30, "mm", "its width", above=0)
    height: Any = number(20, "mm", "its height", above=0)
    radius: Any = number(0, "mm", "the radius of its corners", low=0)

    measured: ClassVar = (("width", "along"), ("height", "across"))
    sentence = (
        "{kind} a rectangle {width} × {height}, corners of radius {radius}, at {x}, {y} from {place}, turned by {turn}."
    )

    def shape(self) -> list[Contour]:
        from ..plane.corners import rounded

        w, h = self.width / 2, self.height / 2
        sharp = Contour.polyline([[-w, -h], [w, -h], [w, h], [-w, h]], closed=True)
        return [rounded(sharp, self.radius) if self.radius else sharp]
