"""Draw a relief: a line on the form at which its blank is to open."""

from __future__ import annotations

from typing import Any

from ..parameters import identities, optional_source, points, source
from ..progress import Progress
from ..results.reliefs import ReliefsResult
from ..results.result import Figure, Outcome, outcome
from ..wording import length
from .registry import operation


@operation(
    "draw_relief",
    title="Draw a relief",
    stage="form",
    group="Develop",
    gives="reliefs",
    takes="points on a form, the last or the first at its edge",
    makes="a line at which a blank opens when it is developed with it",
)
class DrawRelief:
    form: Any = source("form", hint="the form it is drawn on")
    through: Any = points("points yet to be clicked", "points on the form, from its edge inwards")
    others: Any = optional_source("reliefs", words="no others", hint="reliefs that it is added to", on="form")

    remembered: Any = identities()

    sentence = "Draw a relief on {form} through {through}."
    clauses = (("add it to others", "It is added to {others}."),)

    def run(self, progress: Progress) -> Outcome:
        from ..form.persistent_points import points_again
        from .drawn_relief import drawn_relief

        through, moved = points_again(self.form, self.through, (self.remembered or {}).get("through", ""))
        drawn = drawn_relief(self.form, list(through), "type x, y, z; x, y, z")
        reliefs = (*(self.others or ()), drawn)
        more = (Figure("length", length(drawn.length), "form"), Figure("reliefs", str(len(reliefs)), "form"))
        return outcome(ReliefsResult(reliefs), messages=moved, more=more)
