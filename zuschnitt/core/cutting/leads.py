"""Leads: where the beam pierces beside a contour, in the waste, and runs into it; and out of it again."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely

from ..geometry.curves import Array
from ..plane.containing import holes_among
from ..plane.contour import Contour
from ..plane.spans import Spans

LEAN = np.radians(55)
"""Between a lead and the direction of the cut."""
SHORTER = (1.0, 0.5, 0.25)
TRIED = 24
"""So many places of a contour are tried, those on long spans first."""
CLEAR = 0.1
"""A lead stays this far from all other cuts, in mm, but for its end."""
FINE = 0.01


class Waste:
    """What is waste about the contours, and far enough from all cuts; ``above`` (n,) are those they lie within."""

    def __init__(self, contours: Sequence[Contour], above: np.ndarray) -> None:
        rings = [contour.flattened(FINE) for contour in contours]
        self._lines = shapely.STRtree([shapely.LinearRing(ring) for ring in rings])
        areas = np.array([shapely.make_valid(shapely.Polygon(ring)) for ring in rings])
        self._areas = shapely.STRtree(areas)
        self._first = _first_alike(areas)
        self.inner = holes_among(above)
        self._above = above

    def has(self, tip: Array, at: Array, number: int) -> bool:
        """Whether the way from the tip of a lead to a contour is in its waste, and comes near no cut before its end.

        It is told by all that lies round it: where contours run into each other, beside one may be within another.
        """
        away = tip - at
        stop = at + away * min(1.0, 3 * CLEAR / float(np.linalg.norm(away)))
        place, area = self._areas.query(shapely.points([tip, stop]), predicate="within")
        area = self._first[area]
        if any(set(area[place == k].tolist()) != self._round(number) for k in (0, 1)):
            return False
        return not len(self._lines.query(shapely.LineString([tip, stop]), predicate="dwithin", distance=CLEAR))

    def _round(self, number: int) -> set[int]:
        """The contours within which the waste of one lies, of those drawn twice the first."""
        found = [number] if self.inner[number] else []
        while (number := int(self._above[number])) >= 0:
            found.append(number)
        return set(self._first[found].tolist()) if found else set()


def _first_alike(areas: np.ndarray) -> np.ndarray:
    """For each area (n,) the place of the first that is the same: contours may be drawn twice."""
    names = shapely.to_wkb(shapely.normalize(shapely.set_precision(areas, FINE)))
    first: dict[bytes, int] = {}
    return np.array([first.setdefault(name, k) for k, name in enumerate(names)], int)


def led(contours: Sequence[Contour], above: np.ndarray, length: float) -> tuple[list[tuple[Contour, ...]], int]:
    """Each closed contour, begun where its lead ends, between its leads in and out; and how many have no room for one.

    ``above`` (n,) are the contours within which they lie. Leads lie in the waste: outside of parts, inside of holes.
    They are shorter where ``length`` mm has no room.
    """
    waste = Waste(contours, above)
    made: list[tuple[Contour, ...]] = []
    without = 0
    for k, contour in enumerate(contours):
        found = _with_lead(contour, k, length, waste)
        without += found is None
        made.append(found or (contour,))
    return made, without


def _with_lead(contour: Contour, k: int, length: float, waste: Waste) -> tuple[Contour, ...] | None:
    spans = Spans.of([contour])
    inner = waste.inner[k]
    order = np.argsort(-spans.length)[:TRIED]
    side = (1.0 if contour.area > 0 else -1.0) * (1.0 if inner else -1.0)  # where the waste is: left is above 0
    for share in SHORTER:
        for number in order.tolist():
            which, half = np.array([number]), np.array([0.5])
            at, way = spans.evaluate(half, which)[0], spans.direction(half, which)[0]
            begin, end = (at + share * length * _leaning(way, side, back) for back in (True, False))
            if waste.has(begin, at, k):
                begun = _begun_at(contour, spans, number)
                leads = [Contour.polyline([begin, at], layer="LEAD", name=contour.name)]
                out = [Contour.polyline([at, end], layer="LEAD", name=contour.name)]
                return (*leads, begun, *(out if waste.has(end, at, k) else ()))
    return None


def _leaning(way: Array, side: float, back: bool) -> Array:
    """A unit direction (2,) from a contour into the waste, leaning back against the direction of the cut, or on."""
    across = side * np.array([-way[1], way[0]])
    return np.sin(LEAN) * across + (-1 if back else 1) * np.cos(LEAN) * way


def _begun_at(contour: Contour, spans: Spans, number: int) -> Contour:
    """The same closed contour, begun in the middle of one of its spans."""
    places = [np.array([0.5]) if k == number else np.zeros(0) for k in range(len(spans))]
    split = spans.split(places)
    order = np.roll(np.arange(len(split)), -(number + 1))
    return replace(contour, points=split.start[order], bulges=split.bulge[order])
