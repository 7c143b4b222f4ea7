"""How a body lies on a blank."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..develop.blank import Blank
from ..errors import Refused
from ..geometry.curves import Array


@dataclass(frozen=True)
class Placement:
    """Stretched along x and y by ``fit``, scaled, turned (degrees), moved and lifted (mm), in this order."""

    fit: str = "none"
    scale: float = 1.0
    turn: float = 0.0
    at: tuple[float, float] = (0.0, 0.0)
    lift: float = 0.0
    mirror: str = "none"

    def factors(self, low: Array, high: Array, blank: Blank) -> tuple[Array, Array]:
        """By what a body with this box is stretched (3,), and where its origin then lies (3,) before it is turned."""
        x0, y0, x1, y1 = blank.bounds
        factor, shift = np.ones(3), np.zeros(3)
        for axis, wanted, ways in ((0, (x0, x1), ("along", "both")), (1, (y0, y1), ("across", "both"))):
            if self.fit in ways:
                if high[axis] - low[axis] <= 0:
                    raise Refused(
                        "The body has no extent in the direction it is stretched in; fit it in the other one."
                    )
                factor[axis] = (wanted[1] - wanted[0]) / (high[axis] - low[axis])
                shift[axis] = wanted[0] - low[axis] * factor[axis]
        return factor, shift

    def points(self, points: Array, blank: Blank) -> Array:
        """Points (n, 3) of a body, placed."""
        factor, shift = self.factors(points.min(axis=0), points.max(axis=0), blank)
        x, y, z = ((points * factor + shift) * self.scale).T
        cosine, sine = np.cos(np.radians(self.turn)), np.sin(np.radians(self.turn))
        return np.stack([cosine * x - sine * y + self.at[0], sine * x + cosine * y + self.at[1], z + self.lift], axis=1)
