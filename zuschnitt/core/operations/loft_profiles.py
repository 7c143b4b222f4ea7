"""Loft profiles: a body through closed figures of a drawing, one above the other."""

from __future__ import annotations

from typing import Any

from ..errors import Lacking
from ..parameters import choice, numbers, source
from ..progress import Progress
from ..results.result import Outcome
from .body_outcome import drawn, of_shape
from .registry import operation


@operation(
    "loft_profiles",
    title="Join sections to a body",
    stage="form",
    group="Get a form",
    gives="form",
    takes="a drawing of sections, their heights",
    makes="a body through them, smooth or straight from one to the next",
)
class LoftProfiles:
    profile: Any = source("artwork", hint="the drawing: its closed figures are the sections, in their order")
    heights: Any = numbers("no heights", "the height of each section, rising")
    between: Any = choice(
        "smooth", {"smooth": "smoothly", "straight": "in straight lines"}, "how it goes from one to the next"
    )

    sentence = "Join the sections of {profile} at the heights {heights} {between}."

    def run(self, progress: Progress) -> Outcome:
        from ..solids.profiles import lofted

        sections = [contour for contour in drawn(self.profile) if contour.closed]
        if not self.heights:
            raise Lacking("The sections wait for their heights; write one for each.")
        return of_shape(lambda: lofted(sections, self.heights, self.between == "smooth"), "joined sections", progress)
