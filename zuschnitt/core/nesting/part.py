"""A part to be laid on a sheet: its outline, and all that is cut and marked in it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace
from functools import cached_property

import numpy as np
import shapely
import shapely.affinity

from ..errors import Refused
from ..lazy import Lazy
from ..plane.containing import parents
from ..plane.contour import Contour
from ..record import record

FLAT = 0.01
"""Curves are flattened within this, in mm."""
CUTS = ("CUT", "RELIEF")


@record
class Part(Lazy):
    """``outer`` is a closed contour; ``inner`` is all that lies within it, what is cut before what is round it.

    ``copy`` counts, from 1, those of the same name.
    """

    name: str
    outer: Contour
    inner: tuple[Contour, ...] = ()
    copy: int = 1

    @property
    def label(self) -> str:
        """What is written on it where it is shown: the name of its outline, where that has one."""
        return self.outer.name or self.name

    @cached_property
    def shape(self) -> shapely.Polygon:
        """The outline without its holes."""
        return shapely.Polygon(self.outer.flattened(FLAT))

    @cached_property
    def holes(self) -> tuple[shapely.Polygon, ...]:
        """What is cut out of it, the largest first."""
        found = [shapely.Polygon(c.flattened(FLAT)) for c in self.inner if c.closed and c.layer in CUTS]
        outer = [h for h in found if not any(o.area > h.area and o.contains(h.representative_point()) for o in found)]
        return tuple(sorted(outer, key=lambda hole: -hole.area))

    @cached_property
    def solid(self) -> shapely.Polygon:
        """The outline with its holes."""
        return shapely.difference(self.shape, shapely.union_all(self.holes)) if self.holes else self.shape

    @cached_property
    def area(self) -> float:
        """In mm², its holes left out, arcs exact."""
        cut = [abs(c.area) for c in self.inner if c.closed and c.layer in CUTS]
        return abs(self.outer.area) - sum(cut)

    @property
    def contours(self) -> tuple[Contour, ...]:
        """In the order in which they are cut: marks, then holes, then the outline."""
        return (*self.inner, self.outer)


@record
class Placed(Lazy):
    """A part on a sheet: turned by ``turn`` degrees about its own origin, then moved to ``at`` (x, y)."""

    part: Part
    at: tuple[float, float]
    turn: float

    @cached_property
    def shape(self) -> shapely.Polygon:
        return moved(self.part.shape, self.at, self.turn)

    @cached_property
    def solid(self) -> shapely.Polygon:
        """With its holes, where others may lie."""
        return moved(self.part.solid, self.at, self.turn)

    @property
    def contours(self) -> tuple[Contour, ...]:
        return tuple(c.moved(1.0, float(np.radians(self.turn)), self.at) for c in self.part.contours)


def copies(parts: Sequence[Part]) -> list[Part]:
    """Each part by itself, so that the same one may come several times; those of one name are counted."""
    seen: Counter[str] = Counter()
    found = []
    for part in parts:
        seen[part.name] += 1
        found.append(replace(part, copy=seen[part.name]))
    return found


def moved(shape: shapely.Geometry, at: tuple[float, float], turn: float) -> shapely.Geometry:
    """A shape turned about the origin, then moved."""
    return shapely.affinity.translate(shapely.affinity.rotate(shape, turn, origin=(0, 0)), *at)


def parts_of(contours: Sequence[Contour], name: str) -> list[Part]:
    """The parts of a drawing: each outermost closed contour that is cut, with what lies in it.

    Raises Refused where nothing closed is cut.
    """
    layered = any(c.layer in ("CUT", "MARK", "REFERENCE") for c in contours)
    cut = [c for c in contours if c.closed and (c.layer in CUTS or not layered)]
    outer = [k for k, above in enumerate(parents(cut)) if above < 0]
    if not outer:
        raise Refused(f"{name} has no closed contour that is cut, so there is no part in it; close its outline.")
    rest = [c for c in contours if not any(c is cut[k] for k in outer) and c.layer != "REFERENCE"]
    apart = len({cut[k].name for k in outer} - {""}) == len(outer)  # the pieces of a blank have names of their own
    made = []
    for number, k in enumerate(outer, 1):
        shape = shapely.make_valid(shapely.Polygon(cut[k].flattened(FLAT))).buffer(FLAT)
        shapely.prepare(shape)
        mine = [c for c in rest if shape.covers(shapely.Point(c.points[0]))]
        mine.sort(key=lambda c: (c.layer in CUTS, abs(c.area) if c.closed else 0.0))
        own = cut[k].name if apart else str(number)
        made.append(Part(name if len(outer) == 1 else f"{name}-{own}", cut[k], tuple(mine)))
    return made
