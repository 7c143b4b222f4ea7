"""Thin a drawing: artwork that comes with far too much in it, made lighter within a tolerance."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..errors import Refused
from ..parameters import choice, file, number
from ..progress import Progress
from ..results.result import Outcome, outcome
from ..results.thinned import ThinnedResult
from .registry import operation


@operation(
    "thin_drawing",
    title="Thin a drawing",
    stage="blank",
    group="Mark",
    gives="drawing",
    takes="an SVG or DXF drawing, a tolerance",
    makes="the same drawing in few lines and arcs, to place on a blank or to write",
)
@dataclass(frozen=True)
class ThinDrawing:
    file: Any = file(".svg", ".dxf", hint="the SVG or DXF drawing")
    tolerance: Any = number(0.05, "mm", "how far lines may move", above=0)
    gaps: Any = number(0, "mm", "ends nearer to each other than this are joined; 0 for none", low=0)
    smallest: Any = number(0, "mm", "what is smaller than this is left out; 0 for nothing", low=0)
    kept: Any = choice("all", {"all": "open and closed contours", "closed": "closed contours only"}, "what is kept")

    sentence = "Thin {file} within {tolerance}."
    clauses = (
        ("gaps", "Ends within {gaps} of each other are joined."),
        ("specks", "What is smaller than {smallest} is left out."),
        ("closed contours only", "It keeps {kept}."),
    )

    def run(self, progress: Progress) -> Outcome:
        from ..files.artwork_file import read_artwork
        from ..plane.distances import largest_distance
        from ..plane.thinning import thinned

        artwork = read_artwork(self.file.content, self.file.name, progress.part(0, 0.3))
        progress.step(0.3, "thinning")
        made = thinned(artwork.contours, self.tolerance, self.gaps, self.smallest, self.kept == "closed")
        if not made.contours:
            raise Refused("Nothing would be left of the drawing; take smaller sizes, or keep open contours too.")
        progress.step(0.8, "measuring")
        left_out = tuple((name, getattr(made, name)) for name in ("doubles", "specks", "joined", "opened"))
        deviation = largest_distance(made.contours, artwork.contours)
        found = ThinnedResult(made.contours, made.segments, left_out, deviation)
        return outcome(found, messages=artwork.messages)
