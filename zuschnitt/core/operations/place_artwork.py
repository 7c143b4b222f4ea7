"""Place artwork: a drawing laid on a blank, scaled, turned and moved."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import PurePath
from typing import TYPE_CHECKING, Any

import numpy as np

from ..errors import Refused
from ..parameters import choice, number, optional_file, optional_source, source
from ..progress import Progress
from ..results.artwork import ArtworkResult
from ..results.result import Figure, Outcome, outcome
from ..wording import counted
from .registry import operation

if TYPE_CHECKING:
    from ..artwork import Artwork
    from ..develop.blank import Blank


FITS = {
    "none": "as it is",
    "along": "to the blank's width",
    "across": "to its height",
    "both": "to its width and height",
}


@operation(
    "place_artwork",
    title="Place artwork",
    stage="blank",
    group="Mark",
    gives="artwork",
    takes="an SVG or DXF drawing, a blank",
    makes="the artwork on the blank, free to drag",
)
@dataclass(frozen=True)
class PlaceArtwork:
    file: Any = optional_file(".svg", ".dxf", words="no file", hint="the SVG or DXF drawing", instead="drawing")
    blank: Any = source("blank", hint="the blank it lies on")
    x: Any = number(0, "mm", "place of its origin, along x")
    y: Any = number(0, "mm", "place of its origin, along y")
    turn: Any = number(0, "°", "turned anticlockwise about its origin")
    drawing: Any = optional_source("drawing", words="no row", hint="a drawing that was thinned, in place of a file")
    fit: Any = choice("none", FITS, "how it is first stretched to the box round the blank")
    scale: Any = number(1, "", "scale; 1 is the drawing's own size", above=0)
    reads: Any = choice(
        "outside",
        {"outside": "from outside", "inside": "from inside, mirrored on the blank"},
        "from which side of the part it reads right",
    )

    sentence = "Place {file} on {blank} at {x}, {y}, turned by {turn}, {scale} times its size."
    clauses = (
        ("stretched to fit", "First it is stretched {fit}."),
        ("a drawing", "It is the drawing of {drawing}."),
        ("the side it reads from", "It reads right {reads}."),
    )

    def run(self, progress: Progress) -> Outcome:
        artwork = self._artwork(progress.part(0, 0.8))
        if self.reads == "inside":
            artwork = artwork.mirrored()
        if self.fit != "none":
            artwork = artwork.stretched(self.blank.bounds, self.fit != "across", self.fit != "along")
        placed = artwork.placed(self.scale, self.turn, (self.x, self.y))
        progress.step(0.9, "measuring")
        x0, _, x1, _ = placed.bounds
        edge = Figure("to the edge", _clearance(placed, self.blank), "blank")
        brief = f"{PurePath(artwork.name).name} · {counted(len(placed.contours), 'curve')} · {x1 - x0:.1f} mm wide"
        return outcome(ArtworkResult(placed), messages=artwork.messages, more=(edge,), brief=brief)

    def _artwork(self, progress: Progress) -> Artwork:
        from ..artwork import Artwork
        from ..files.artwork_file import read_artwork

        if self.drawing is not None:
            return Artwork(tuple(replace(contour, layer="MARK") for contour in self.drawing), "drawing")
        if self.file is None:
            raise Refused("There is no artwork yet; choose a file, or a row that gives a drawing.")
        return read_artwork(self.file.content, self.file.name, progress)


def _clearance(artwork: Artwork, blank: Blank) -> str:
    """How far inside the outline the artwork stays, or how far it leaves it."""
    points = np.vstack([contour.flattened(0.1) for contour in artwork.contours])
    inside = blank.region.contains(points, 1e-6)
    gaps = blank.region.distance(points)
    if inside.all():
        return f"inside, {gaps.min():.1f} mm"
    return f"outside by {gaps[~inside].max():.1f} mm"
