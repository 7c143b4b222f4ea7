"""What a drawing is drawn on: a blank or a bare sheet with its corners, edges and bends, and what is drawn already."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import field, replace
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from ..errors import Refused
from ..geometry.curves import Array
from ..lazy import Lazy
from ..parameters.place import Anchor
from ..plane.contour import Contour, bounds
from ..plane.corners import CONTOUR_CORNER
from ..plane.spans import Spans
from ..record import record

if TYPE_CHECKING:
    from ..develop.blank import Blank


@record
class Frame:
    """Where a place is measured from: ``origin`` (2,), unit directions ``along`` and ``away`` (2,).

    ``turn``, in radians, is how far what is put there is turned by itself.
    """

    origin: Array
    along: Array
    away: Array
    turn: float = 0.0

    def at(self, x: float, y: float) -> Array:
        return self.origin + x * self.along + y * self.away

    def seen(self, point: Array) -> tuple[float, float]:
        """A point of the plane as it is measured from here."""
        offset = np.linalg.solve(np.stack([self.along, self.away], axis=1), np.asarray(point, float) - self.origin)
        return float(offset[0]), float(offset[1])


@record
class Edge:
    """A side of an outline between two corners: its spans, and on which contour it is."""

    contour: int
    spans: Spans

    @cached_property
    def _middle(self) -> tuple[int, float]:
        lengths = np.cumsum(self.spans.length)
        half = lengths[-1] / 2
        k = int(np.searchsorted(lengths, half))
        return k, float((half - (lengths[k] - self.spans.length[k])) / self.spans.length[k])

    @property
    def middle(self) -> Array:
        k, t = self._middle
        return self.spans.evaluate(np.array([t]), np.array([k]))[0]

    @property
    def direction(self) -> Array:
        """Along the edge at its middle, the material on the left."""
        k, t = self._middle
        return self.spans.direction(np.array([t]), np.array([k]))[0]


@record
class Ground(Lazy):
    """``outline`` has its material on the left; ``drawn`` are the contours of the figures so far, by their numbers.

    ``repeated`` are the figures of which others are copies, by the numbers of these.
    """

    outline: tuple[Contour, ...]
    bends: tuple[Contour, ...] = ()
    drawn: Mapping[int, tuple[Contour, ...]] = field(default_factory=dict)
    repeated: Mapping[int, tuple[int, ...]] = field(default_factory=dict)

    @staticmethod
    def of_blank(blank: Blank) -> Ground:
        return Ground(blank.outline, tuple(fold for fold in blank.folds if not fold.closed))

    @staticmethod
    def bare(width: float, height: float) -> Ground:
        """A sheet with its lower left corner at the origin."""
        return Ground((Contour.polyline([[0, 0], [width, 0], [width, height], [0, height]], closed=True),))

    def with_drawn(self, number: int, contours: Sequence[Contour], copies: Sequence[int] = ()) -> Ground:
        """With one more figure; of the figures ``copies`` it holds copies, which stand for these too."""
        drawn = {**self.drawn, number: tuple(contours)}
        return replace(self, drawn=drawn, repeated={**self.repeated, number: tuple(copies)})

    def members(self, numbers: Sequence[int]) -> list[int]:
        """The figures with those that they repeat: of a row its first one too.

        Raises Refused where one is not there, or stands below.
        """
        if not numbers:
            raise Refused("It is made of no figure yet; write the numbers of figures above it.")
        missing = [number for number in numbers if number not in self.drawn]
        if missing:
            raise Refused(f"There is no figure {missing[0]} above it; choose one that is there.")
        found: dict[int, None] = {}
        for number in numbers:
            copied = self.repeated.get(number)
            found.update(dict.fromkeys([*(self.members(copied) if copied else ()), number]))
        return list(found)

    def figures(self, numbers: Sequence[int]) -> list[Contour]:
        """The contours of figures, rows with their first one. Raises Refused as ``members`` does."""
        return [contour for number in self.members(numbers) for contour in self.drawn[number]]

    @cached_property
    def box(self) -> tuple[float, float, float, float]:
        return bounds(self.outline)

    @cached_property
    def corners(self) -> tuple[tuple[Array, Array], ...]:
        """Points (2,) of the outline at which it turns, each with the direction (2,) into the material."""
        found = []
        for spans, sharp in self._sharp:
            leave, arrive = spans.direction(np.zeros(len(spans))), spans.direction(np.ones(len(spans)))
            for k in sharp:
                inward = leave[k] - arrive[k - 1]  # between the two edges, on the side on which they meet
                left = np.array([-1, 1]) * (leave[k] + arrive[k - 1])[::-1]
                found.append((spans.start[k], inward if inward @ left > 0 else left))
        return tuple(found)

    @cached_property
    def edges(self) -> tuple[Edge, ...]:
        """The sides of the outline from corner to corner, in its order; a contour without corners is one edge."""
        found = []
        for number, (spans, sharp) in enumerate(self._sharp):
            count = len(spans)
            stops = [*sharp] or [0]
            for k, begin in enumerate(stops):
                end = stops[(k + 1) % len(stops)]
                through = (end - begin - 1) % count + 1
                found.append(Edge(number, spans.at((begin + np.arange(through)) % count)))
        return tuple(found)

    @cached_property
    def _sharp(self) -> list[tuple[Spans, list[int]]]:
        """The spans of each contour, and at the start of which of them it turns."""
        found = []
        for contour in self.outline:
            spans = Spans.of([contour])
            found.append((spans, np.nonzero(np.abs(spans.turns) > 5 * CONTOUR_CORNER)[0].tolist()))
        return found

    def frame(self, anchor: Anchor) -> Frame:
        """Where a place is measured from. Raises Refused where there is no such thing."""
        x, y = np.array([1.0, 0.0]), np.array([0.0, 1.0])
        if anchor.what == "origin":
            return Frame(np.zeros(2), x, y)
        if anchor.what == "middle":
            return Frame(np.array([self.box[0] + self.box[2], self.box[1] + self.box[3]]) / 2, x, y)
        if anchor.what == "figure":
            box = bounds(self.figures([anchor.number]))
            return Frame(np.array([box[0] + box[2], box[1] + box[3]]) / 2, x, y)
        if anchor.what == "corner":
            point, inward = _numbered(self.corners, anchor)
            return Frame(point, x * (1.0 if inward[0] >= 0 else -1.0), y * (1.0 if inward[1] >= 0 else -1.0))
        if anchor.what == "edge":
            edge = _numbered(self.edges, anchor)
            return _along(edge.middle, edge.direction)
        bend = _numbered(self.bends, anchor)
        start, end = bend.points[0], bend.points[-1]
        return _along((start + end) / 2, (end - start) / max(float(np.linalg.norm(end - start)), 1e-300))


def _along(origin: Array, direction: Array) -> Frame:
    return Frame(
        origin, direction, np.array([-direction[1], direction[0]]), float(np.arctan2(direction[1], direction[0]))
    )


def _numbered(things: Sequence, anchor: Anchor):
    if anchor.number > len(things):
        count = f"it has {len(things)}" if things else "it has none"
        raise Refused(f"There is no {anchor}; {count}. Measure from another place.")
    return things[anchor.number - 1]
