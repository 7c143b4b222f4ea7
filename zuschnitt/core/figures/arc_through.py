"""An arc through three points."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..errors import Refused
from ..parameters.plane_points import plane_points
from ..plane.contour import Contour
from .registry import Placed, figure


@figure("arc_through", title="Arc through three points", group="Draw", says="its begin, one point of it, its end")
class ArcThrough(Placed):
    points: Any = plane_points("0, 0; 20, 10; 40, 0", "its begin, one point of it, its end")

    sentence = "{kind} an arc through {points}, from {x}, {y} off {place}, turned by {turn}."

    def shape(self) -> list[Contour]:
        if len(self.points) != 3:
            raise Refused("an arc goes through three points; give it three.")
        a, b, c = np.array(self.points, float)
        u, v = b - a, c - b
        turn = np.arctan2(u[0] * v[1] - u[1] * v[0], u @ v)  # half the arc's sweep, by the angle at the circumference
        if min(np.linalg.norm(u), np.linalg.norm(v), np.linalg.norm(c - a)) < 1e-7 or abs(turn) < 1e-9:
            raise Refused("its three points lie on one line, or on each other; move one of them.")
        return [Contour(np.array([a, c]), np.array([np.tan(turn / 2), 0.0]), False)]
