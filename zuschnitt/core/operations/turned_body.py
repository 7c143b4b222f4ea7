"""Turned body: a cylinder running down into a cone, as of a cyclone, a hopper or a funnel."""

from __future__ import annotations

from typing import Any

from ..errors import Refused
from ..parameters import number
from ..progress import Progress
from ..results.form import FormResult
from ..results.result import Outcome, outcome
from .registry import operation


@operation(
    "turned_body",
    title="Turn a body",
    stage="form",
    group="Get a form",
    gives="form",
    takes="diameters and heights",
    makes="a cylinder with a cone below it, or one of them",
    begins="turn a body from numbers",
)
class TurnedBody:
    top: Any = number(400, "mm", "diameter at the top", above=0)
    cylinder: Any = number(220, "mm", "height of the cylinder; 0 for a cone alone", low=0)
    cone: Any = number(420, "mm", "height of the cone; 0 for a cylinder alone", low=0)
    outlet: Any = number(120, "mm", "diameter at the lower end; 0 for a point", low=0)

    sentence = "Turn a body {top} wide at the top, straight for {cylinder}, then running to {outlet} over {cone}."

    def run(self, progress: Progress) -> Outcome:
        from ..form.build import turned_body

        profile = []
        if self.cone > 0:
            profile.append((self.outlet / 2, 0.0))
        profile.append((self.top / 2, self.cone))
        if self.cylinder > 0:
            profile.append((self.top / 2, self.cone + self.cylinder))
        if len(profile) < 2:
            raise Refused("A body without a cylinder and without a cone is nothing; give one of them a height.")
        form = turned_body(profile)
        return outcome(FormResult(form), messages=form.messages)
