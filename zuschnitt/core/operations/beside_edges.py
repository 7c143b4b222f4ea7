"""Run beside edges: curves at a distance from edges, measured along the surface."""

from __future__ import annotations

from typing import Any

from ..parameters import faces, identities, needed_edges, number, source
from ..progress import Progress
from ..results.result import Outcome, outcome
from ..results.space_curves import CurvesResult
from .registry import operation


@operation(
    "beside_edges",
    title="Run beside edges",
    stage="form",
    group="Mark",
    gives="curves",
    takes="edges of a form, a distance along the surface",
    makes="curves at that distance on the faces beside them",
)
class RunBesideEdges:
    form: Any = source("form", hint="the form whose edges they are")
    edges: Any = needed_edges("no edges yet", "the edges: click them on the form")
    distance: Any = number(10, "mm", "how far from the edges, along the surface", above=0)
    faces: Any = faces("on which side of an edge between two faces: pick it on the form, or write 1, 4")
    remembered: Any = identities()

    sentence = "Run {distance} beside {edges} of {form}, on {faces}."

    def run(self, progress: Progress) -> Outcome:
        from ..carry.tracing import SpaceCurve
        from ..form.persistent_names import faces_again, found_again
        from ..form_curves.offset_curves import beside_edges

        numbers, said = found_again(self.form, self.edges, (self.remembered or {}).get("edges", ""), "edge")
        picked, also = faces_again(self.form, self.faces, self.remembered)
        progress.step(0.1, "walking along the surface")
        chains, more = beside_edges(self.form, numbers, self.distance, picked)
        curves = tuple(SpaceCurve(chain.points, "beside", True, chain.corners) for chain in chains)
        return outcome(CurvesResult(curves), messages=(*said, *also, *more))
