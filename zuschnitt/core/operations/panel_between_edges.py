"""Panel between edges: one developable sheet from one run of edges to another."""

from __future__ import annotations

from typing import Any

from ..errors import Refused
from ..parameters import identities, needed_edges, source
from ..progress import Progress
from ..results.result import Outcome
from .panel_outcome import nearest_choice, panel_outcome
from .registry import operation


@operation(
    "panel_between_edges",
    title="Span a panel between edges",
    stage="form",
    group="Get a form",
    gives="form",
    takes="two runs of edges of a form",
    makes="one smooth developable panel between them",
)
class PanelBetweenEdges:
    form: Any = source("form", hint="the form whose edges are spanned")
    first: Any = needed_edges("edges yet to be picked", "the edges that the panel begins at")
    second: Any = needed_edges("edges yet to be picked", "the edges that it runs to")
    nearest: Any = nearest_choice()
    remembered: Any = identities()

    sentence = "Span a panel from {first} to {second} of {form}, {nearest}."

    def run(self, progress: Progress) -> Outcome:
        from ..form.persistent_names import found_again
        from ..form_curves.edge_runs import run_of_edges
        from ..panels.panels import panels

        if not self.first or not self.second:
            raise Refused("A panel needs edges to begin at and edges to run to; pick both on the form.")
        known = self.remembered or {}
        picks = [
            found_again(self.form, getattr(self, name), known.get(name, ""), "edge") for name in ("first", "second")
        ]
        curves = [run_of_edges(self.form, numbers) for numbers, _ in picks]
        made = panels(curves, self.nearest == "nearest", "panel", progress)
        return panel_outcome(made, (*picks[0][1], *picks[1][1]))
