"""Draw a curve: through points of a form, along its faces."""

from __future__ import annotations

from typing import Any

from ..errors import Refused
from ..parameters import choice, faces, identities, points, source
from ..progress import Progress
from ..results.result import Outcome, outcome
from ..results.space_curves import CurvesResult
from ..wording import coordinates
from .registry import operation


@operation(
    "draw_curve",
    title="Draw a curve",
    stage="form",
    group="Mark",
    gives="curves",
    takes="points on the faces of a form",
    makes="a curve along the faces through them, smooth or by the shortest ways",
)
class DrawCurve:
    form: Any = source("form", hint="the form it is drawn on")
    faces: Any = faces("the faces it keeps to: pick them on the form, or write all or 1, 4")
    remembered: Any = identities()
    through: Any = points("points yet to be clicked", "points on the faces, in their order")
    ends: Any = choice("open", {"open": "from end to end", "closed": "back to its beginning"}, "how it ends")

    between: Any = choice(
        "smooth", {"smooth": "smooth", "shortest": "by the shortest ways"}, "how it goes from point to point"
    )

    sentence = "Draw a curve on {form} through {through}, {between}, {ends}."
    clauses = (("some faces only", "It keeps to {faces}."),)

    def run(self, progress: Progress) -> Outcome:
        from ..carry.tracing import SpaceCurve
        from ..form.persistent_names import faces_again
        from ..form.persistent_points import points_again
        from ..form_curves.drawn_curve import drawn_through, own_crossing
        from ..form_curves.shortest import shortest_through

        if not self.through:
            raise Refused("The curve has no points yet; click them on the form, or type x, y, z; x, y, z.")
        picked, said = faces_again(self.form, self.faces, self.remembered)
        progress.step(0.1, "drawing on the faces")
        draw = shortest_through if self.between == "shortest" else drawn_through
        through, moved = points_again(self.form, self.through, (self.remembered or {}).get("through", ""))
        drawn = draw(self.form, through, self.ends == "closed", picked)
        crossing = own_crossing(drawn)
        if crossing is not None:
            moved = (*moved, f"The curve crosses itself at {coordinates(crossing)}; move or reorder its points.")
        curve = SpaceCurve(drawn.points, "drawn", True, drawn.corners)
        return outcome(CurvesResult((curve,)), messages=(*said, *moved, *drawn.messages))
