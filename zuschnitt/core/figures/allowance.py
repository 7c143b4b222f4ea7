"""A strip beside edges of the outline, to be joined with it or taken away from it."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..errors import Refused
from ..geometry.curves import Array
from ..parameters.figure_numbers import FigureNumbers
from ..parameters.number import number
from ..parameters.parameter import stands_in
from ..plane.contour import Contour
from ..plane.spans import Spans
from .ground import Ground
from .registry import Figure, figure


@figure(
    "allowance",
    title="Allowance along edges",
    group="Draw",
    says="a strip beside edges of the outline; of no width the edges themselves",
)
class Allowance(Figure):
    edges: Any = stands_in(FigureNumbers(words="all edges", hint="which edges of the outline", noun="edge"))
    width: Any = number(5, "mm", "how far it reaches outward; below 0 inward")

    sentence = "{kind} a strip along {edges} of the outline, {width} wide."

    def draw(self, ground: Ground) -> list[Contour]:
        count = len(ground.edges)
        numbers = self.edges or range(1, count + 1)
        beyond = [n for n in numbers if not 1 <= n <= count]
        if beyond:
            raise Refused(f"there is no edge {beyond[0]} of the outline; it has {count}.")
        return [_strip(ground.edges[n - 1].spans, self.width) for n in numbers]


def _strip(edge: Spans, width: float) -> Contour:
    """What lies between an edge, the material on its left, and its parallel at ``width`` mm to the right."""
    points = np.vstack([edge.start, edge.end[-1:]])
    if width == 0:
        return Contour(points, np.append(edge.bulge, 0.0), False)
    whole = bool(np.linalg.norm(points[0] - points[-1]) < 1e-9)
    if whole:
        raise Refused("this edge runs all round, so no strip ends it; move the blank's outline outward instead.")
    room = np.where(edge.curved & (np.sign(edge.bulge) * width < 0), edge.radius - abs(width), np.inf)
    if room.min() <= 0:
        raise Refused(f"an edge is too strongly curved for a strip {abs(width):g} mm wide; make it narrower.")
    beside = points + width * _square(edge)
    # out along the parallel, back along the edge
    first, second = (beside, points[::-1]) if width > 0 else (points, beside[::-1])
    bulges = np.concatenate([edge.bulge, [0.0], -edge.bulge[::-1], [0.0]])
    return Contour(np.vstack([first, second]), bulges, True)


def _square(edge: Spans) -> Array:
    """For each point of an edge (n + 1, 2) the way to its right that moves both spans beside it by 1."""
    leave, arrive = edge.direction(np.zeros(len(edge))), edge.direction(np.ones(len(edge)))
    before, after = np.vstack([leave[:1], arrive]), np.vstack([leave, arrive[-1:]])
    both = np.stack([before[:, 1] + after[:, 1], -before[:, 0] - after[:, 0]], axis=1)
    return np.asarray(both / (1 + np.einsum("nk,nk->n", before, after))[:, None])
