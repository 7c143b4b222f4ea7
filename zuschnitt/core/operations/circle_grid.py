"""Circle grid: test circles on a blank, to be marked on it and looked at when it is formed."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..errors import Refused
from ..parameters import number, source
from ..progress import Progress
from ..results.artwork import ArtworkResult
from ..results.result import Outcome, outcome
from ..wording import counted
from .registry import operation

MOST = 20_000


@operation(
    "circle_grid",
    title="Lay a grid of circles",
    stage="blank",
    group="Mark",
    gives="artwork",
    takes="a blank, the size of the circles and their spacing",
    makes="circles to be marked on it, and to be wrapped onto the form",
)
class CircleGrid:
    blank: Any = source("blank", hint="the blank they lie on")
    diameter: Any = number(10, "mm", "diameter of the circles", above=0)
    spacing: Any = number(15, "mm", "from middle to middle", above=0)

    sentence = "Lay circles of {diameter} over {blank}, {spacing} from middle to middle."

    def run(self, progress: Progress) -> Outcome:
        from ..plane.artwork import Artwork
        from ..plane.contour import Contour

        x0, y0, x1, y1 = self.blank.bounds
        if (x1 - x0) * (y1 - y0) / self.spacing**2 > MOST:
            raise Refused(f"That would be more than {MOST:,} circles; take a larger spacing.")
        across = np.arange(np.ceil(x0 / self.spacing), np.floor(x1 / self.spacing) + 1) * self.spacing
        up = np.arange(np.ceil(y0 / self.spacing), np.floor(y1 / self.spacing) + 1) * self.spacing
        net = np.stack(np.meshgrid(across, up), axis=-1).reshape(-1, 2)
        clear = self.blank.region.contains(net) & (self.blank.region.distance(net) > self.diameter / 2)
        if not clear.any():
            raise Refused("No circle of that size fits on the blank at that spacing; take smaller ones.")
        circles = tuple(
            Contour.circle(at, self.diameter / 2, "MARK", f"circle {k + 1}") for k, at in enumerate(net[clear])
        )
        return outcome(ArtworkResult(Artwork(circles, "circles")), brief=counted(len(circles), "circle"))
