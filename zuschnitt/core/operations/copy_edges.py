"""Copy edges: edges of a form become curves, alone or with all that run on smoothly."""

from __future__ import annotations

from typing import Any

from ..parameters import choice, identities, needed_edges, source
from ..progress import Progress
from ..results.result import Outcome, outcome
from ..results.space_curves import CurvesResult
from .registry import operation


@operation(
    "copy_edges",
    title="Copy edges",
    stage="form",
    group="Mark",
    gives="curves",
    takes="edges of a form",
    makes="curves along them, joined where they meet",
)
class CopyEdges:
    form: Any = source("form", hint="the form whose edges are copied")
    edges: Any = needed_edges("no edges yet", "the edges: click them on the form")
    remembered: Any = identities()
    reach: Any = choice(
        "picked", {"picked": "as they are", "smooth": "with all that run on smoothly"}, "how far the curves go"
    )

    sentence = "Copy {edges} of {form}, {reach}."

    def run(self, progress: Progress) -> Outcome:
        from ..carry.tracing import SpaceCurve
        from ..form.persistent_names import found_again
        from ..form_curves.edge_curves import edge_chains, running_on

        numbers, said = found_again(self.form, self.edges, (self.remembered or {}).get("edges", ""), "edge")
        if self.reach == "smooth":
            numbers = running_on(self.form, numbers)
        chains = edge_chains(self.form, numbers)
        curves = tuple(SpaceCurve(chain.points, "edges", True, chain.corners) for chain in chains)
        return outcome(CurvesResult(curves), messages=said)
