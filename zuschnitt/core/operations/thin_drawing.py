"""Thin a drawing: artwork that comes with far too much in it, made lighter within a tolerance."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from ..errors import Refused
from ..parameters import choice, file, number, optional_number, picked_curves, sorts
from ..progress import Progress
from ..results.result import Outcome, outcome
from ..results.thinned import ThinnedResult
from .registry import operation

if TYPE_CHECKING:
    from ..plane.contour import Contour


@operation(
    "thin_drawing",
    title="Thin a drawing",
    stage="blank",
    group="Mark",
    gives="drawing",
    takes="an SVG or DXF drawing, a tolerance",
    makes="the same drawing in few lines and arcs, to place on a blank or to write",
)
class ThinDrawing:
    file: Any = file(".svg", ".dxf", hint="the SVG or DXF drawing")
    tolerance: Any = number(0.05, "mm", "how far lines may move", above=0)
    gaps: Any = number(0, "mm", "ends nearer to each other than this are joined; 0 for none", low=0)
    smallest: Any = number(0, "mm", "what is smaller than this is left out; 0 for nothing", low=0)
    kept: Any = choice("all", {"all": "open and closed contours", "closed": "closed contours only"}, "what is kept")

    width: Any = optional_number("", "mm", "how wide it is to be", above=0, words="as wide as it is")
    cut: Any = sorts("nothing more", "layers or colours that are cut")
    mark: Any = sorts("nothing more", "layers or colours that are marked")
    without: Any = sorts("no layer or colour", "layers or colours that are left out")
    away: Any = picked_curves("no curves", "curves that are taken away: a point of each")

    sentence = "Thin {file} within {tolerance}."
    clauses = (
        ("curves taken away", "Taken away are {away}."),
        ("layers and colours", "To be cut: {cut}; to be marked: {mark}; left out: {without}."),
        ("its width", "Before that it is scaled to be {width}."),
        ("gaps", "Ends within {gaps} of each other are joined."),
        ("specks", "What is smaller than {smallest} is left out."),
        ("closed contours only", "It keeps {kept}."),
    )

    def run(self, progress: Progress) -> Outcome:
        from ..files.artwork_file import read_artwork
        from ..plane.distances import largest_distance
        from ..plane.sorting import picked, sent, sorts_of
        from ..plane.thinning import segment_count, thinned

        artwork = read_artwork(self.file.content, self.file.name, progress.part(0, 0.3))
        known = sorts_of(artwork.contours)
        whole = sent(artwork.contours, self.cut, self.mark, self.without)
        if not whole:
            raise Refused("All of the drawing is left out; leave out fewer layers or colours.")
        if self.width is not None:
            whole = _scaled(whole, self.width)
        progress.step(0.3, "thinning")
        made = thinned(whole, self.tolerance, self.gaps, self.smallest, self.kept == "closed")
        gone = picked(made.contours, np.array(self.away).reshape(-1, 2))
        kept = tuple(contour for k, contour in enumerate(made.contours) if k not in gone)
        if not kept:
            raise Refused("Nothing would be left of the drawing; take smaller sizes, or leave less of it out.")
        progress.step(0.8, "measuring")
        left_out = tuple((name, getattr(made, name)) for name in ("doubles", "specks", "joined", "opened"))
        segments = segment_count(*artwork.contours), segment_count(*kept)
        away = tuple(made.contours[k] for k in sorted(gone))
        found = ThinnedResult(kept, segments, left_out, largest_distance(kept, whole), away, tuple(known.most_common()))
        return outcome(found, messages=artwork.messages)


def _scaled(contours: list[Contour], width: float) -> list[Contour]:
    """With a box of that width. Raises Refused where they have none."""
    from ..plane.contour import bounds

    x0, _, x1, _ = bounds(contours)
    if x1 <= x0:
        raise Refused("The drawing has no width to be scaled to; leave its width as it is.")
    return [contour.moved(width / (x1 - x0)) for contour in contours]
