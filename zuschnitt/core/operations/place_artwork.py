"""Place artwork: a drawing laid on a blank, scaled, turned and moved, or where there is most room for it."""

from __future__ import annotations

from pathlib import PurePath
from typing import TYPE_CHECKING, Any

import numpy as np

from ..errors import Refused
from ..parameters import choice, number, optional_file, optional_number, optional_source, source, sources
from ..progress import Progress
from ..results.artwork import ArtworkResult
from ..results.result import Figure, Outcome, outcome
from ..wording import Note, counted
from .registry import operation

if TYPE_CHECKING:
    from ..develop.blank import Blank
    from ..plane.artwork import Artwork


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
class PlaceArtwork:
    file: Any = optional_file(".svg", ".dxf", words="no file", hint="the SVG or DXF drawing", instead="drawing")
    blank: Any = source("blank", hint="the blank it lies on")
    x: Any = optional_number(
        0, "mm", "place of its origin, along x; empty: in the largest free place", words="a free x", fresh=""
    )
    y: Any = optional_number(
        0, "mm", "place of its origin, along y; empty: in the largest free place", words="a free y", fresh=""
    )
    turn: Any = number(0, "°", "turned anticlockwise about its origin")
    drawing: Any = optional_source("drawing", words="no row", hint="a drawing that was thinned, in place of a file")
    fit: Any = choice("none", FITS, "how it is first stretched to the box round the blank")
    scale: Any = number(1, "", "scale; 1 is the drawing's own size", above=0)
    reads: Any = choice(
        "outside",
        {"outside": "from outside", "inside": "from inside, mirrored on the blank"},
        "from which side of the part it reads right",
    )
    beside: Any = sources("artwork", of="blank", hint="what it keeps clear of in a free place", unless=("x", "y"))

    sentence = "Place {file} on {blank} at {x}, {y}, turned by {turn}, {scale} times its size."
    clauses = (
        ("stretched to fit", "First it is stretched {fit}."),
        ("a drawing", "It is the drawing of {drawing}."),
        ("the side it reads from", "It reads right {reads}."),
        ("what it keeps clear of", "In a free place it keeps clear of {beside}."),
    )

    def run(self, progress: Progress) -> Outcome:
        artwork = self._artwork(progress.part(0, 0.8))
        if self.reads == "inside":
            artwork = artwork.mirrored()
        if self.fit != "none":
            artwork = artwork.stretched(self.blank.bounds, self.fit != "across", self.fit != "along")
        progress.step(0.85, "looking for the largest free place")
        x, y, scale, said = self._landed(artwork)
        placed = artwork.placed(scale, self.turn, (x, y))
        progress.step(0.9, "measuring")
        x0, _, x1, _ = placed.bounds
        edge = Figure("to the edge", _clearance(placed, self.blank), "blank")
        brief = f"{PurePath(artwork.name).name} · {counted(len(placed.contours), 'curve')} · {x1 - x0:.1f} mm wide"
        result = ArtworkResult(placed, landed=(x, y, scale))
        return outcome(result, messages=(*artwork.messages, *said), more=(edge,), brief=brief)

    def _landed(self, artwork: Artwork) -> tuple[float, float, float, tuple[str, ...]]:
        """Place and scale: as given, or in the largest free place; and what is to be said of it."""
        if self.x is not None and self.y is not None:
            return self.x, self.y, self.scale, ()
        if self.fit != "none":  # it is laid onto the blank's own box already
            return self.x or 0.0, self.y or 0.0, self.scale, ()
        from ..plane.contour import bounds
        from ..plane.free_place import largest_place, without_boxes

        said: list[str] = []
        x0, y0, x1, y1 = artwork.placed(self.scale, self.turn, (0.0, 0.0)).bounds
        taken = [bounds((c,)) for other in self.beside for c in other.contours if c.layer != "REFERENCE"]
        found = largest_place(without_boxes(self.blank.region.shape, taken), x1 - x0, y1 - y0)
        if found is None:
            said.append("Nothing of the blank is free; the artwork lies over what is marked on it.")
            found = largest_place(self.blank.region.shape, x1 - x0, y1 - y0)
            assert found is not None  # a blank has an area
        (middle_x, middle_y), factor = found
        free = self.x is None and self.y is None
        if factor < 1 and free:
            smaller = f"it lies there at {factor * 100:.3g} % of its size."
            said.append(Note(f"It is larger than the largest free place; {smaller}"))
        factor = factor if free else 1.0
        x = middle_x - factor * (x0 + x1) / 2 if self.x is None else self.x
        y = middle_y - factor * (y0 + y1) / 2 if self.y is None else self.y
        return float(x), float(y), self.scale * factor, tuple(said)

    def _artwork(self, progress: Progress) -> Artwork:
        from ..files.artwork_file import read_artwork
        from ..plane.artwork import Artwork

        if self.drawing is not None:
            layered = any(contour.layer != "MARK" for contour in self.drawing)
            return Artwork(tuple(self.drawing), "drawing", layered=layered)
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
