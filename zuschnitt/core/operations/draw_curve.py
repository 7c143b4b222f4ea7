"""Draw a curve: through points of a form, smoothly along its faces."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from ..errors import Refused
from ..parameters import choice, faces, memory, points, source
from ..progress import Progress
from ..results.result import Outcome, outcome
from ..results.space_curves import CurvesResult
from .registry import operation


@operation(
    "draw_curve",
    title="Draw a curve",
    stage="form",
    group="Mark",
    gives="curves",
    takes="points on the faces of a form",
    makes="a smooth curve along the faces through them",
)
@dataclass(frozen=True)
class DrawCurve:
    form: Any = source("form", hint="the form it is drawn on")
    faces: Any = faces("the faces it keeps to: pick them on the form, or write all or 1, 4")
    remembered: Any = memory()
    through: Any = points("points yet to be clicked", "points on the faces, in their order")
    ends: Any = choice("open", {"open": "from end to end", "closed": "back to its beginning"}, "how it ends")

    sentence = "Draw a curve on {form} through {through}, {ends}."
    clauses = (("some faces only", "It keeps to {faces}."),)

    def run(self, progress: Progress) -> Outcome:
        from ..carry.tracing import SpaceCurve
        from ..form.drawn_curve import drawn_through
        from ..form.lasting import found_again

        if not self.through:
            raise Refused("The curve has no points yet; click them on the form, or type x, y, z; x, y, z.")
        picked: tuple[int, ...] | None = None
        said: tuple[str, ...] = ()
        if self.faces != "all":
            picked, said = found_again(self.form, self.faces, (self.remembered or {}).get("faces", ""))
        progress.step(0.1, "drawing on the faces")
        drawn = drawn_through(self.form, np.array(self.through), self.ends == "closed", picked)
        curve = SpaceCurve(drawn.points, "drawn", True, drawn.corners)
        return outcome(CurvesResult((curve,)), messages=(*said, *drawn.messages))
