"""Pull a profile: a drawing pulled out to a body, with or without a wall."""

from __future__ import annotations

from typing import Any

from ..parameters import choice, number, source
from ..progress import Progress
from ..results.result import Outcome
from .body_outcome import drawn, of_shape
from .registry import operation


@operation(
    "pull_profile",
    title="Pull a profile out",
    stage="form",
    group="Get a form",
    gives="form",
    takes="a drawing, a length",
    makes="a body of its closed figures, a surface of its open ones",
)
class PullProfile:
    profile: Any = source("artwork", hint="the drawing of the profile")
    length: Any = number(200, "mm", "how far it is pulled, square to the drawing", above=0)
    view: Any = choice(
        "front",
        {"front": "from the front", "top": "from above", "side": "from the right"},
        "from where the drawing is seen: there its x and y lie",
    )
    wall: Any = number(0, "mm", "thickness of a wall along the profile; 0 for none", low=0)

    sentence = "Pull the profile {profile}, seen {view}, out by {length}."
    clauses = (("a wall", "Along it is a wall {wall} thick."),)

    def run(self, progress: Progress) -> Outcome:
        from ..plane.walls import walled
        from ..solids.profiles import pulled

        contours = drawn(self.profile)
        contours = walled(contours, self.wall) if self.wall else contours
        return of_shape(lambda: pulled(contours, self.length, self.view), "profile", progress)
