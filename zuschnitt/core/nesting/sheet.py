"""A sheet with parts on it, and how they may lie."""

from __future__ import annotations

from functools import cached_property
from typing import Any

import numpy as np
import shapely

from ..lazy import Lazy
from ..plane.contour import Contour
from ..record import record
from .part import FLAT, Part, Placed

TURNS = {"along": (0.0, 180.0), "across": (90.0, 270.0), "free": None}
"""The turns that are allowed, in degrees, where a part's grain runs along, across, or is free."""
FREE_TURNS = tuple(np.arange(0, 180, 2.5).tolist())
"""Tried for a part that may be turned as it comes, to see whether it fits."""
SAME = 1e-6
"""Lengths in mm that differ by less are the same."""
Size = tuple[float, float]
Box = tuple[float, float, float, float]


@record
class Nest:
    """``gap`` between parts and ``margin`` at the sheet's edge, in mm; ``grain`` of TURNS; ``seconds`` of search."""

    gap: float = 0.0
    margin: float = 0.0
    grain: str = "free"
    seconds: int = 10

    @property
    def turns(self) -> tuple[float, ...] | None:
        """The turns that are allowed, in degrees; None where any is."""
        return TURNS[self.grain]

    def room(self, size: Size) -> Box:
        """What of a sheet may be laid on."""
        return self.margin, self.margin, size[0] - self.margin, size[1] - self.margin


@record
class NestedSheet(Lazy):
    """A sheet of ``size`` (width, height) in mm with the parts on it."""

    size: tuple[float, float]
    parts: tuple[Placed, ...]

    @property
    def share(self) -> float:
        """The yield in percent."""
        return 100 * sum(placed.part.area for placed in self.parts) / (self.size[0] * self.size[1])

    def contours(self) -> list[Contour]:
        """What is cut of it, small parts and those on its left first; its edge is only for reference."""
        width, height = self.size
        edge = Contour.polyline([[0, 0], [width, 0], [width, height], [0, height]], True, "REFERENCE", "sheet")
        contours = [edge]
        for placed in sorted(self.parts, key=lambda placed: (placed.shape.area, placed.shape.bounds[0])):
            contours.extend(placed.contours)
        return contours

    def report(self, margin: float) -> dict[str, Any]:
        """Its part of a report; ``margin`` in mm is kept free at its edge."""
        return {
            "size": list(self.size),
            "yield": self.share,
            "parts": [{"name": each.part.name, "at": list(each.at), "turn": each.turn} for each in self.parts],
            "offcut": list(self.offcut(margin)),
        }

    def offcut(self, margin: float) -> tuple[float, float]:
        """What is left of it beside the parts, over its whole height: width and height in mm."""
        used = max((placed.shape.bounds[2] for placed in self.parts), default=0.0)
        return max(0.0, self.size[0] - used - margin), self.size[1]

    def too_near(self, how: Nest, only: int | None = None) -> list[tuple[int, ...]]:
        """What lies wrong, by its places in ``parts``: two parts over each other or nearer than the gap, or one over
        the margin; all of it, or that of ``only`` one part."""
        solids = [placed.solid for placed in self.parts]
        room = shapely.box(*how.room(self.size)).buffer(FLAT)
        asked = range(len(solids)) if only is None else (only,)
        found: list[tuple[int, ...]] = [(k,) for k in asked if not room.covers(solids[k])]
        tree = shapely.STRtree(solids)
        for i in asked:
            for j in sorted(tree.query(solids[i], "dwithin", max(how.gap, FLAT)).tolist()):
                if (i < j or (only is not None and i != j)) and _wrong(solids[i], solids[j], how.gap):
                    found.append((i, j))
        return found


def _wrong(one: shapely.Polygon, other: shapely.Polygon, gap: float) -> bool:
    if gap > FLAT:
        return bool(one.distance(other) < gap - FLAT)
    return bool(shapely.intersection(one, other).area > FLAT)


@record
class Nesting(Lazy):
    """``sheets`` in order, the parts that are ``left`` over, ``how`` they were laid on sheets of ``sizes``.

    A square metre of the material costs ``price``.
    """

    sheets: tuple[NestedSheet, ...]
    left: tuple[Part, ...] = ()
    how: Nest = Nest()
    sizes: tuple[Size, ...] = ()
    price: float = 0.0

    @property
    def parts(self) -> list[tuple[int, Placed]]:
        """All that is laid, each with the number of its sheet, from 0."""
        return [(k, placed) for k, sheet in enumerate(self.sheets) for placed in sheet.parts]

    @property
    def share(self) -> float:
        """The yield of all sheets together, in percent."""
        room = sum(sheet.size[0] * sheet.size[1] for sheet in self.sheets)
        return 100 * sum(placed.part.area for _, placed in self.parts) / room if room else 0.0

    @property
    def offcuts(self) -> tuple[Size, ...]:
        """What of the sheets can be used again, in mm."""
        found = [sheet.offcut(self.how.margin) for sheet in self.sheets]
        return tuple(size for size in found if min(size) > 2 * self.how.margin)

    @property
    def cost(self) -> float:
        """Of the sheets, less their offcuts, which are kept."""
        used = sum(w * h for w, h in (sheet.size for sheet in self.sheets)) - sum(w * h for w, h in self.offcuts)
        return self.price * used * 1e-6

    @cached_property
    def wrong(self) -> tuple[tuple[int, tuple[int, ...]], ...]:
        """What lies wrong: the number of a sheet, from 0, with what ``too_near`` says of it."""
        return tuple((k, each) for k, sheet in enumerate(self.sheets) for each in sheet.too_near(self.how))
