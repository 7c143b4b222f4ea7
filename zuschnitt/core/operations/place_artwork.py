"""Place artwork: a drawing laid on a blank, scaled, turned and moved."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import PurePath
from typing import TYPE_CHECKING, Any

import numpy as np

from ..parameters import file, number, source
from ..progress import Progress
from ..results.artwork import ArtworkResult
from ..results.result import Figure, Outcome, outcome
from ..wording import counted
from .registry import operation

if TYPE_CHECKING:
    from ..artwork import Artwork
    from ..develop.blank import Blank


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
    file: Any = file(".svg", ".dxf", hint="the SVG or DXF drawing")
    blank: Any = source("blank", hint="the blank it lies on")
    x: Any = number(0, "mm", "place of its origin, along x")
    y: Any = number(0, "mm", "place of its origin, along y")
    turn: Any = number(0, "°", "turned anticlockwise about its origin")
    scale: Any = number(1, "", "scale; 1 is the drawing's own size", above=0)

    sentence = "Place {file} on {blank} at {x}, {y}, turned by {turn}, {scale} times its size."

    def run(self, progress: Progress) -> Outcome:
        from ..files.artwork_file import read_artwork

        artwork = read_artwork(self.file.content, self.file.name, progress.part(0, 0.8))
        placed = artwork.placed(self.scale, self.turn, (self.x, self.y))
        progress.step(0.9, "measuring")
        x0, _, x1, _ = placed.bounds
        edge = Figure("to the edge", _clearance(placed, self.blank), "blank")
        brief = f"{PurePath(self.file.name).name} · {counted(len(placed.contours), 'curve')} · {x1 - x0:.1f} mm wide"
        return outcome(ArtworkResult(placed), messages=artwork.messages, more=(edge,), brief=brief)


def _clearance(artwork: Artwork, blank: Blank) -> str:
    """How far inside the outline the artwork stays, or how far it leaves it."""
    points = np.vstack([contour.flattened(0.1) for contour in artwork.contours])
    inside = blank.region.contains(points, 1e-6)
    gaps = blank.region.distance(points)
    if inside.all():
        return f"inside, {gaps.min():.1f} mm"
    return f"outside by {gaps[~inside].max():.1f} mm"
