"""A line from point to point, or a run of lines."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..errors import Refused
from ..parameters.choice import choice
from ..parameters.number import number
from ..parameters.plane_points import plane_points
from ..plane.contour import Contour
from .registry import Placed, figure

ENDS = {"open": "an open", "closed": "a closed"}


@figure(
    "line", title="Line or run of lines", group="Draw", says="through points, open or closed, corners rounded if wanted"
)
class Line(Placed):
    points: Any = plane_points("0, 0; 40, 0", "its points")
    ends: Any = choice("open", ENDS, "whether it comes back to its first point")
    radius: Any = number(0, "mm", "the radius of its corners", low=0)

    sentence = (
        "{kind} {ends} run of lines through {points}, corners of radius {radius}, "
        "from {x}, {y} off {place}, turned by {turn}."
    )

    def shape(self) -> list[Contour]:
        from ..plane.corners import rounded

        points = _apart(self.points)
        if len(points) < (3 if self.ends == "closed" else 2):
            raise Refused("it has too few points that lie apart; give it more.")
        run = Contour.polyline(points, closed=self.ends == "closed")
        return [rounded(run, self.radius) if self.radius and len(points) > 2 else run]


def _apart(points) -> np.ndarray:
    """The points without those that lie on the one before."""
    found = np.array(points, float).reshape(-1, 2)
    there = np.linalg.norm(np.diff(found, axis=0), axis=1) > 1e-7
    return found[np.concatenate([[True], there])] if len(found) else found
