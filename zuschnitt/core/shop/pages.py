"""A blank in true size on pages of paper, to be glued together or laid on the sheet."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely

from ..develop.blank import Blank
from ..develop.piece import Piece, letter
from ..develop.stretch_scale import colours, mapped, scale_limit
from ..develop.strokes import strokes
from ..errors import CannotBeDone, Refused
from ..plane.contour import Contour, bounds
from .papers import PAPERS
from .printed import Page, Pages

MARGIN = 12.0
"""Round each page, in mm, where nothing of the blank is printed, since printers do not reach the edge."""
MOST = 400
"""Pages, at the most."""
STROKE = 6.0
"""Length of a stroke along the larger stretch, in mm on paper."""


def paged(
    blank: Blank,
    contours: Sequence[Contour],
    paper: str = "a4",
    overlap: float = 10.0,
    scale: float = 1.0,
    shown: str = "lines",
) -> Pages:
    """The pages that a blank needs, upright or across, whichever are fewer; pages that would stay empty are left out.

    ``shown`` is "lines", or "stretch" or "compression" for that map below them, with its principal directions.
    Raises Refused for a paper that there is not or values that leave no room, CannotBeDone for too many pages.
    """
    if paper not in PAPERS:
        raise Refused(f"There is no paper '{paper}'; take one of {', '.join(PAPERS)}.")
    if not (np.isfinite(scale) and scale > 0):
        raise Refused("The scale of the print must be a number above 0; change it.")
    _, width, height = PAPERS[paper]
    if not 0 <= overlap < min(width, height) / 2 - MARGIN:
        raise Refused("The overlap must not be below 0 mm, nor take up half the page; change it.")
    if paper == "roll":
        x0, y0, x1, y1 = bounds(contours)
        height = min(height, max(x1 - x0, y1 - y0) * scale + 2 * MARGIN + 1)
    layouts = [_laid(contours, size, overlap, scale) for size in ((width, height), (height, width))]
    chosen = min(layouts, key=lambda layout: len(layout[1]))
    pages = tuple(replace(page, pieces=_on(page, blank.pieces)) for page in chosen[1])
    made = Pages(tuple(contours), chosen[0], pages, overlap, scale)
    if shown == "lines" or blank.mesh is None:
        return made
    mesh = blank.mesh
    limit = scale_limit(mesh.stretch)
    principal = strokes(mesh)
    half = principal.along_blank * STROKE / 2 / scale
    ends = np.stack([principal.points_blank - half, principal.points_blank + half], axis=1)
    corners, shades = mesh.points_blank[mesh.triangles], colours(mapped(mesh.stretch, shown), limit)
    return replace(made, corners=corners, shades=shades, strokes=ends, limit=limit)


def _on(page: Page, pieces: Sequence[Piece]) -> tuple[str, ...]:
    """The names of the pieces that lie on a page."""
    field = shapely.box(*page.low, *page.high)
    return tuple(sorted(piece.name for piece in pieces if piece.name and piece.shape.intersects(field)))


def _laid(
    contours: Sequence[Contour], paper: tuple[float, float], overlap: float, scale: float
) -> tuple[tuple[float, float], tuple[Page, ...]]:
    """The pages of one paper on which something lies, the net of them in the middle of the blank."""
    field = (np.array(paper) - 2 * MARGIN) / scale
    lap = overlap / scale
    x0, y0, x1, y1 = bounds(contours)
    size = np.array([x1 - x0, y1 - y0])
    counts = np.maximum(1, np.ceil((size - lap) / (field - lap) - 1e-9)).astype(int)
    if int(counts.prod()) > MOST:
        raise CannotBeDone(
            f"That would be {int(counts.prod()):,} pages; the limit is {MOST}, so take larger paper or a smaller scale."
        )
    covered = counts * field - (counts - 1) * lap
    left, top = np.array([x0, y1]) + np.array([-1, 1]) * (covered - size) / 2
    inked = [shapely.LineString(c.flattened(0.5)) for c in contours if len(c.points) > 1]
    cut = [shapely.Polygon(c.flattened(0.5)[:-1]) for c in contours if c.layer == "CUT" and c.closed]
    tree = shapely.STRtree([*inked, *(shapely.make_valid(p) for p in cut)])
    pages = []
    for row in range(int(counts[1])):
        for column in range(int(counts[0])):
            low = np.array([left + column * (field[0] - lap), top - row * (field[1] - lap) - field[1]])
            box = shapely.box(*low, *(low + field))
            if len(tree.query(box, predicate="intersects")):
                pages.append(Page(f"{letter(row)}{column + 1}", low, low + field, row, column))
    return paper, tuple(pages)
