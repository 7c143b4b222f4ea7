"""Corners of contours rounded, or cut off."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace

import numpy as np

from ..errors import Refused
from ..geometry.curves import Array
from .contour import Contour
from .spans import Spans

CONTOUR_CORNER = np.radians(1.0)
"""What turns by less than this is no corner."""


def corners(contour: Contour) -> np.ndarray:
    """The places of its points at which it turns."""
    spans = Spans.of([contour])
    return np.nonzero(np.abs(_turns(contour, spans)) > CONTOUR_CORNER)[0]


def rounded(contour: Contour, radius: float, chosen: Collection[int] = ()) -> Contour:
    """With arcs of ``radius`` mm that run on smoothly, at all corners or at those ``chosen`` (counted from 1).

    Raises Refused where there is no room.
    """
    spans = Spans.of([contour])
    turns = _turns(contour, spans)
    cuts = []
    for point in _picked(contour, chosen):
        arriving, leaving = np.array([point - 1]) % len(spans), np.array([point])
        side = np.sign(turns[point])
        a, b = _beside(spans.at(arriving), side * radius), _beside(spans.at(leaving), side * radius)
        centre = _nearest(a, b, contour.points[point])
        if centre is None:
            raise _no_room(contour, point, f"a radius of {radius:g} mm")
        s = float(spans.place(centre[None], arriving)[0])
        t = float(spans.place(centre[None], leaving)[0])
        way = spans.direction(np.array([s]), arriving)[0], spans.direction(np.array([t]), leaving)[0]
        turn = np.arctan2(way[0][0] * way[1][1] - way[0][1] * way[1][0], way[0] @ way[1])
        cuts.append((point, s, t, float(np.tan(turn / 4))))
    return _cut(contour, spans, cuts, f"a radius of {radius:g} mm")


def chamfered(contour: Contour, size: float, chosen: Collection[int] = ()) -> Contour:
    """With a straight line ``size`` mm from each corner in place of it. Raises Refused where there is no room."""
    spans = Spans.of([contour])
    cuts = []
    for point in _picked(contour, chosen):
        arriving = (point - 1) % len(spans)
        s, t = 1 - size / float(spans.length[arriving]), size / float(spans.length[point])
        cuts.append((point, s, t, 0.0))
    return _cut(contour, spans, cuts, f"a chamfer of {size:g} mm")


def _picked(contour: Contour, chosen: Collection[int]) -> list[int]:
    there = [int(k) for k in corners(contour)]
    missing = [number for number in chosen if number - 1 not in there]
    if missing:
        raise Refused(
            f"There is no corner {missing[0]} on this figure; its corners are {', '.join(str(k + 1) for k in there)}."
            if there
            else "This figure has no corners; leave it as it is."
        )
    return [number - 1 for number in sorted(chosen)] or there


def _turns(contour: Contour, spans: Spans) -> Array:
    """By how much the contour turns at each of its points, to the left; 0 at the ends of an open one."""
    count = len(spans)
    if len(contour.spans[2]) != count:
        raise Refused("This figure has points that lie on each other; thin it first.")
    turns = spans.turns.copy()
    if not contour.closed:
        turns[0] = 0.0
    return turns


def _beside(span: Spans, left: float) -> Spans:
    """One span moved to its left."""
    ways = span.direction(np.array([0.0])), span.direction(np.array([1.0]))
    moved = [way[:, ::-1] * [-1, 1] * left for way in ways]
    if span.curved[0] and span.radius[0] - left * np.sign(span.bulge[0]) <= 0:
        return span.at(np.zeros(0, int))
    return Spans(span.start + moved[0], span.end + moved[1], span.bulge, span.owner)


def _nearest(a: Spans, b: Spans, corner: Array) -> Array | None:
    if not len(a) or not len(b):
        return None
    _, _, s, _ = a.meetings(b)
    if not len(s):
        return None
    points = a.evaluate(s, np.zeros(len(s), int))
    return points[np.argmin(np.linalg.norm(points - corner, axis=1))]


def _cut(contour: Contour, spans: Spans, cuts: list[tuple[int, float, float, float]], what: str) -> Contour:
    """The contour with its corners replaced: point, place on the span before, on the span after, bulge between."""
    count = len(spans)
    low, high = np.zeros(count), np.ones(count)
    for point, s, t, _ in cuts:
        high[(point - 1) % count], low[point] = s, t
    tight = np.nonzero(low > high + 1e-9)[0]
    if len(tight):
        raise _no_room(contour, int(tight[0]), what)
    between = {point: bulge for point, _, _, bulge in cuts}
    points, bulges = [], []
    for k in range(count):
        if k in between:
            points.append(spans.evaluate(high[[k - 1]], np.array([(k - 1) % count]))[0])
            bulges.append(between[k])
        if high[k] - low[k] > 1e-9:
            points.append(spans.evaluate(low[[k]], np.array([k]))[0])
            bulges.append(float(np.tan(spans.sweep[k] * (high[k] - low[k]) / 4)) if spans.curved[k] else 0.0)
    if not contour.closed:
        points.append(contour.points[-1])
        bulges.append(0.0)
    return replace(contour, points=np.array(points), bulges=np.array(bulges))


def _no_room(contour: Contour, point: int, what: str) -> Refused:
    x, y = contour.points[point]
    return Refused(f"There is no room for {what} at {x:g}, {y:g}; make it smaller, or leave that corner as it is.")
