"""Contours at a distance from others; arcs stay arcs."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from scipy.spatial import cKDTree

from ..geometry.curves import Array
from .chaining import NEAR, chained
from .combining import LEAST, oriented, places
from .contour import Contour
from .spans import SAME, Spans

SHARPEST = 8.0
"""A corner stays sharp where its tip is no further off than so many times the distance."""
TRUE = 1e-6
"""The new contour keeps its distance to this, in mm."""


def moved_outward(contours: Sequence[Contour], distance: float, sharp: bool = False) -> list[Contour]:
    """The boundary of an area, by even and odd, moved outward by ``distance`` mm, or inward where that is negative.

    Each point of it is exactly so far from the boundary that is given: of all the lines and arcs beside its spans and
    round its corners those are kept that come no nearer. With ``sharp`` corners between lines stay corners. The answer
    has no contour where nothing is left. Raises Refused for open contours.
    """
    if not contours or distance == 0:
        return oriented(contours)
    areas = oriented(contours)
    given = Spans.of(areas)
    beside = _beside(areas, distance, sharp)
    if not len(beside):
        return []
    i, j, s, t = beside.meetings()
    which, at = np.concatenate([i, j]), np.concatenate([s, t])
    pieces = beside.split(places(len(beside), which, at))
    middle = pieces.evaluate(np.full(len(pieces), 0.5))
    clear = _clear(given, middle, abs(distance)) & (given.contains(middle) == (distance < 0))
    kept = _without_ends(_single(pieces.at(clear)))
    layer, name = contours[0].layer, contours[0].name
    return [c for c in chained(kept, layer, name) if c.closed and abs(c.area) > LEAST]


def _beside(areas: Sequence[Contour], distance: float, sharp: bool) -> Spans:
    """Lines and arcs at the distance on the right of each span (outside), and round each corner that needs it."""
    start, end, bulge = [], [], []
    for area in areas:
        spans = Spans.of([area])
        count = len(spans)
        leave, arrive = spans.direction(np.zeros(count)), spans.direction(np.ones(count))
        out_start, out_end = distance * _right(leave), distance * _right(arrive)
        radius = np.where(spans.curved, spans.radius + distance * np.sign(spans.bulge), 1.0)
        there = radius > SAME
        following = (np.arange(count) + 1) % count
        turn = np.roll(spans.turns, -1)  # at its end
        turn = np.where(turn < -np.pi + 1e-9, np.pi, turn)  # where it turns back, it goes round its end
        open_corner = turn * distance > 1e-9
        a, b = spans.start + out_start, spans.end + out_end
        for k in np.nonzero(open_corner)[0]:
            n = int(following[k])
            corner, reach = spans.end[k], abs(distance) / max(np.cos(turn[k] / 2), 1e-9)
            if sharp and not spans.curved[k] and not spans.curved[n] and reach < SHARPEST * abs(distance):
                middle = out_end[k] + out_start[n]
                tip = corner + middle / np.linalg.norm(middle) * reach
                start += [corner + out_end[k], tip]
                end += [tip, corner + out_start[n]]
                bulge += [0.0, 0.0]
            else:
                start.append(corner + out_end[k])
                end.append(corner + out_start[n])
                bulge.append(np.tan(turn[k] / 4))
        start += list(a[there])
        end += list(b[there])
        bulge += list(spans.bulge[there])
    return Spans(np.array(start), np.array(end), np.array(bulge), np.zeros(len(bulge), int))


def _right(way: Array) -> Array:
    return np.stack([way[:, 1], -way[:, 0]], axis=1)


def _clear(given: Spans, points: Array, distance: float) -> np.ndarray:
    """Whether points (m, 2) are no nearer than ``distance`` to any of the spans."""
    reach = distance - TRUE
    low, high = points - reach, points + reach
    i, j = given.tree.query(shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1]))
    near = given.distance(points[i], j) < reach
    clear = np.ones(len(points), bool)
    clear[i[near]] = False
    return clear


def _without_ends(spans: Spans) -> Spans:
    """Without those that lead nowhere: where lines cross at a tiny angle, what lies just beyond is left over."""
    while len(spans):
        from_end, _ = cKDTree(spans.start).query(spans.end)
        to_start, _ = cKDTree(spans.end).query(spans.start)
        going = (from_end <= NEAR) & (to_start <= NEAR)
        if going.all():
            break
        spans = spans.at(going)
    return spans


def _single(spans: Spans) -> Spans:
    """Each span once: two that run the same way between the same points through the same middle are one."""
    middle = spans.evaluate(np.full(len(spans), 0.5))
    key = np.round(np.hstack([spans.start, spans.end, middle]) / 1e-5).astype(np.int64)
    _, first = np.unique(key, axis=0, return_index=True)
    return spans.at(np.sort(first))
