"""Sweep along guides: a surface between two guide curves, drawn in front and top view."""

from __future__ import annotations

from typing import Any

from ..parameters import choice, optional_source, source
from ..progress import Progress
from ..results.result import Outcome
from ..wording import counted
from .body_outcome import drawn, of_shape
from .registry import operation


@operation(
    "sweep_guides",
    title="Sweep along two guides",
    stage="form",
    group="Get a form",
    gives="form",
    takes="two guides in front and in top view, profiles between them",
    makes="a surface from one guide to the other",
)
class SweepGuides:
    front: Any = source("artwork", hint="the drawing of both guides in front view: x to the right, z up")
    top: Any = source("artwork", hint="the drawing of both guides in top view: x to the right, y back")
    profiles: Any = optional_source(
        "artwork", words="straight lines", hint="a drawing of open profiles, evenly along the guides, in their order"
    )
    stands: Any = choice(
        "upright",
        {"upright": "upright", "square": "square to the line between the guides"},
        "how a profile stands that rises over that line",
    )

    sentence = "Sweep from one guide to the other, from the front {front}, from above {top}, with {profiles} between."
    clauses = (("how profiles stand", "Profiles stand {stands}."),)

    def run(self, progress: Progress) -> Outcome:
        from ..errors import Lacking, Refused
        from ..solids.guided import between, guide, profile_runs

        fronts, tops = ([c for c in drawn(side) if not c.closed] for side in (self.front, self.top))
        if not fronts or not tops:
            where = "the front view" if not fronts else "the view from above"
            raise Lacking(f"The sweep waits for two guides in {where}; draw two open curves there.")
        if len(fronts) != 2 or len(tops) != 2:
            raise Refused(
                f"Two guides are needed in each view; here is {counted(len(fronts), 'open curve')} in the front view "
                f"and {counted(len(tops), 'open curve')} in the top view."
            )
        first, second = (guide(*views) for views in zip(fronts, tops, strict=True))
        profiles = [None] if self.profiles is None else drawn(self.profiles)
        runs = [profile_runs(each) for each in profiles]
        return of_shape(lambda: between(first, second, runs, self.stands == "upright"), "swept surface", progress)
