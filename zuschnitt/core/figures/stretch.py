"""Figures stretched in one direction, or in both."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, ClassVar

import numpy as np

from ..geometry.curves import Array
from ..parameters.figure_numbers import figure_numbers
from ..parameters.number import number
from ..parameters.place import place
from ..plane.contour import Contour, on_arc
from .ground import Ground
from .registry import Figure, figure


@figure("stretch", title="Stretched", group="Make of others", says="in one direction, or in both")
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
        aside = centre * (1 - factor)
        made = (_stretched(contour, factor) for contour in ground.figures(self.of))
        return [replace(contour, points=contour.points + aside) for contour in made]


def _stretched(contour: Contour, factor: Array) -> Contour:
    """A contour with both axes multiplied; arcs that do not stay round become several ones."""
    from ..plane.smooth import as_arcs

    if abs(factor[0] - factor[1]) < 1e-12:
        return replace(contour, points=contour.points * factor)

    points, bulges = [], []
    for start, end, bulge in zip(*contour.spans, strict=True):
        if bulge == 0:
            points.append(start[None] * factor)
            bulges.append(np.zeros(1))
            continue
        half = 2 * np.arctan(bulge)

        def curve(turned: Array, start=start, end=end, bulge=bulge, half=half) -> tuple[Array, Array]:
            x, y = end - start
            c, s = np.cos(2 * turned - half), np.sin(2 * turned - half)
            ways = np.stack([c * x - s * y, s * x + c * y], axis=1)
            return on_arc(start, end, np.array([bulge]), turned) * factor, ways * factor

        parts = as_arcs(curve, np.linspace(0, half, int(np.ceil(abs(half) / (np.pi / 4))) + 1), closed=False)
        points.append(parts.points[:-1])
        bulges.append(parts.bulges[:-1])
    if not contour.closed:
        points.append(contour.points[-1:] * factor)
        bulges.append(np.zeros(1))
    return replace(contour, points=np.vstack(points), bulges=np.concatenate(bulges))
