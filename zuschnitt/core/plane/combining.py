"""Areas of the plane joined, taken away from one another, and what they have in common; arcs stay arcs."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from ..errors import Refused
from ..geometry.curves import Array
from .chaining import chained
from .contour import Contour
from .crossing_free import groups_that_cross, require_simple
from .spans import Spans

WAYS = ("joined", "less", "common")
CLEAR = 3e-7
"""What is nearer to a boundary than this, in mm, lies on it."""
LEAST = 1e-6
"""Areas smaller than this, in mm², are none."""


def combined(first: Sequence[Contour], second: Sequence[Contour], way: str) -> list[Contour]:
    """What the areas of two sets of closed contours make: ``joined``, the first ``less`` the second, or ``common``.

    Areas are by even and odd. The contours keep the layer of the first; those that bound material from outside run
    anticlockwise, holes clockwise. Raises Refused for open contours.
    """
    one, other = oriented(first), oriented(second)
    a, b = Spans.of(one), Spans.of(other)
    i, j, s, t = a.meetings(b)
    a, b = a.split(places(len(a), i, s)), b.split(places(len(b), j, t))
    in_b, along_b, against_b = _seen(a, b)
    in_a, along_a, against_a = _seen(b, a)
    if way == "joined":
        kept = [a.at(~in_b & ~against_b), b.at(~in_a & ~along_a & ~against_a)]
    elif way == "less":
        kept = [a.at(~in_b & ~along_b), b.at(in_a & ~along_a & ~against_a).turned_round()]
    else:
        kept = [a.at((in_b | along_b) & ~against_b), b.at(in_a & ~along_a & ~against_a)]
    layer, name = first[0].layer, first[0].name
    return [c for c in chained(Spans.together(kept), layer, name) if c.closed and abs(c.area) > LEAST]


def united(areas: Sequence[Sequence[Contour]]) -> list[Contour]:
    """All areas joined; within one, contours that cross each other are joined, too. Raises Refused."""
    apart = [_without_crossings(area) for area in areas]
    found = list(apart[0])
    for area in apart[1:]:
        found = combined(found, area, "joined")
    return found


def _without_crossings(contours: Sequence[Contour]) -> list[Contour]:
    """The same area by contours that do not cross, its material on their left."""
    require_simple(contours)
    made: list[Contour] = []
    for group in groups_that_cross(contours):
        joined = [contours[group[0]]]
        for k in group[1:]:
            joined = combined(joined, [contours[k]], "joined")
        made.extend(joined)
    return oriented(made)


def oriented(contours: Sequence[Contour]) -> list[Contour]:
    """Closed contours that have their area on the left, by even and odd. Raises Refused for open ones."""
    if any(not contour.closed for contour in contours):
        raise Refused("Only closed figures have an area to join, take away or move outward; close them first.")
    made = []
    for k, contour in enumerate(contours):
        others = Spans.of([c for n, c in enumerate(contours) if n != k])
        inside = len(others) > 0 and bool(others.contains(_inner(contour))[0])
        made.append(contour if (contour.area > 0) != inside else contour.reversed())
    return made


def _inner(contour: Contour) -> Array:
    """A place (1, 2) on a contour that is no point of it: points are where contours touch."""
    return Spans.of([contour]).evaluate(np.array([0.4142]), np.array([0]))


def places(count: int, which: np.ndarray, at: np.ndarray) -> list[np.ndarray]:
    """For each of ``count`` spans the values ``at`` (m,) of those that are on it, by ``which`` (m,)."""
    order = np.argsort(which, kind="stable")
    return np.split(at[order], np.searchsorted(which[order], np.arange(1, count)))


def _seen(these: Spans, others: Spans) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Which spans lie inside the area of others, which run along its boundary in its direction, which against it."""
    half = np.full(len(these), 0.5)
    middle, way = these.evaluate(half), these.direction(half)
    along, against = np.zeros(len(these), bool), np.zeros(len(these), bool)
    pairs = others.tree.query(_boxes(middle))
    i, j = pairs
    if len(i):
        on = others.distance(middle[i], j) <= CLEAR
        i, j = i[on], j[on]
        t = np.clip(others.place(middle[i], j), 0, 1)
        turn = (others.direction(t, j) * way[i]).sum(axis=1)
        along[i[turn > 0.999]] = True
        against[i[turn < -0.999]] = True
    return others.contains(middle) & ~along & ~against, along, against


def _boxes(points: Array) -> np.ndarray:
    low, high = points - CLEAR, points + CLEAR
    return shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1])
