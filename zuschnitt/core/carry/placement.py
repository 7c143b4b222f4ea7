"""How a body lies on a blank."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..develop.blank import Blank
from ..errors import Refused
from ..geometry.curves import Array
from ..record import record


@record
class Placement:
    """Stretched by ``fit``, then by factors along x, y and z, scaled, turned (degrees), moved and lifted (mm).

    There are ``count`` of them in a row, each ``apart`` (mm) from the one before.
    """

    fit: str = "none"
    scale: float = 1.0
    turn: float = 0.0
    at: tuple[float, float] = (0.0, 0.0)
    lift: float = 0.0
    mirror: str = "none"
    stretch: tuple[float, float, float] = (1.0, 1.0, 1.0)
    count: int = 1
    apart: tuple[float, float] = (0.0, 0.0)

    @property
    def row(self) -> tuple[Placement, ...]:
        """Where each of them lies by itself."""
        (x, y), (dx, dy) = self.at, self.apart
        return tuple(replace(self, at=(x + k * dx, y + k * dy), count=1) for k in range(self.count))

    def named(self, name: str, copy: int) -> str:
        """The name of a body as the copy with this number, from 0."""
        return f"{name}, {copy + 1}" if self.count > 1 else name

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
        return factor * self.stretch, shift * self.stretch

    def points(self, points: Array, blank: Blank) -> Array:
        """Points (n, 3) of a body, placed."""
        factor, shift = self.factors(points.min(axis=0), points.max(axis=0), blank)
        x, y, z = ((points * factor + shift) * self.scale).T
        cosine, sine = np.cos(np.radians(self.turn)), np.sin(np.radians(self.turn))
        return np.stack([cosine * x - sine * y + self.at[0], sine * x + cosine * y + self.at[1], z + self.lift], axis=1)
