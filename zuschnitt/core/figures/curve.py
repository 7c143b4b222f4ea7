"""A smooth curve through points."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..errors import Refused
from ..parameters.choice import choice
from ..parameters.plane_points import plane_points
from ..plane.contour import Contour
from .line import ENDS, _apart
from .registry import Placed, figure


@figure("curve", title="Smooth curve", group="Draw", says="through points, open or closed")
class Curve(Placed):
    points: Any = plane_points("0, 0; 20, 8; 40, 0", "its points")
    ends: Any = choice("open", ENDS, "whether it comes back to its first point")

    sentence = "{kind} {ends} smooth curve through {points}, from {x}, {y} off {place}, turned by {turn}."

    def shape(self) -> list[Contour]:
        from scipy.interpolate import CubicSpline

        from ..plane.smooth import as_arcs

        points, closed = _apart(self.points), self.ends == "closed"
        if len(points) < (3 if closed else 2):
            raise Refused("it has too few points that lie apart; give it more.")
        if closed:
            points = np.vstack([points, points[:1]])
        lengths = np.linalg.norm(np.diff(points, axis=0), axis=1)
        if lengths.min() < 1e-7:
            raise Refused("two of its points lie on each other; move one of them.")
        at = np.concatenate([[0.0], np.cumsum(np.sqrt(lengths))])  # centripetal: no loops where points stand unevenly
        spline = CubicSpline(at, points, bc_type="periodic" if closed else "natural")
        return [as_arcs(lambda t: (spline(t), spline(t, 1)), at, closed)]
