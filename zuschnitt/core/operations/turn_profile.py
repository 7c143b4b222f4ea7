"""Turn a profile: a drawing turned round an axis to a body, with or without a wall."""

from __future__ import annotations

from typing import Any

from ..parameters import number, source
from ..progress import Progress
from ..results.result import Outcome
from .body_outcome import drawn, of_shape
from .registry import operation


@operation(
    "turn_profile",
    title="Turn a profile",
    stage="form",
    group="Get a form",
    gives="form",
    takes="a drawing, an angle",
    makes="a body of its closed figures, a surface of its open ones",
)
class TurnProfile:
    profile: Any = source("artwork", hint="the drawing: its x is the radius, its y the height")
    angle: Any = number(360, "°", "how far it is turned", above=0, high=360)
    axis: Any = number(0, "mm", "where the axis stands in the drawing, along x")
    wall: Any = number(0, "mm", "thickness of a wall along the profile; 0 for none", low=0)

    sentence = "Turn the profile {profile} round an axis at {axis} by {angle}."
    clauses = (("a wall", "Along it is a wall {wall} thick."),)

    def run(self, progress: Progress) -> Outcome:
        from ..plane.walls import walled
        from ..solids.profiles import turned

        contours = [contour.moved(at=(-self.axis, 0.0)) for contour in drawn(self.profile)]
        contours = walled(contours, self.wall) if self.wall else contours
        return of_shape(lambda: turned(contours, self.angle), "turned profile", progress)
