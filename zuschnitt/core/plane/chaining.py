"""Directed spans put together to contours."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from scipy.spatial import cKDTree

from ..geometry.curves import Array
from .contour import Contour
from .spans import Spans

NEAR = 1e-5
"""Ends nearer to each other than this, in mm, are put together."""


def chained(spans: Spans, layer: str = "CUT", name: str = "") -> list[Contour]:
    """Contours that run through all the spans, each in its direction; closed where they come back to their begin.

    Where several go on, the one that turns most to the left is taken, so that areas that touch in a point stay apart.
    """
    if not len(spans):
        return []
    tree = cKDTree(spans.start)
    going_on = tree.query_ball_point(spans.end, NEAR)
    leaves, arrives = spans.direction(np.zeros(len(spans))), spans.direction(np.ones(len(spans)))
    coming = {k for following in going_on for k in following}
    first = [k for k in range(len(spans)) if k not in coming]
    left = np.ones(len(spans), bool)
    made = []
    for begin in [*first, *range(len(spans))]:
        if not left[begin]:
            continue
        chain = [begin]
        left[begin] = False
        while True:
            here = chain[-1]
            if np.linalg.norm(spans.end[here] - spans.start[begin]) <= NEAR and (
                len(chain) > 1 or spans.curved[begin] or spans.length[begin] > NEAR
            ):
                break
            ways = [k for k in going_on[here] if left[k]]
            if not ways:
                break
            chain.append(max(ways, key=lambda k: _turn(arrives[here], leaves[k])))
            left[chain[-1]] = False
        made.append(_contour(spans, chain, layer, name))
    return made


def _turn(arriving: Array, leaving: Array) -> float:
    """By how much one turns to the left, from -pi to pi."""
    cross = arriving[0] * leaving[1] - arriving[1] * leaving[0]
    return float(np.arctan2(cross, arriving @ leaving))


def _contour(spans: Spans, chain: Sequence[int], layer: str, name: str) -> Contour:
    which = np.array(chain)
    closed = bool(np.linalg.norm(spans.end[which[-1]] - spans.start[which[0]]) <= NEAR)
    points, bulges = spans.start[which], spans.bulge[which]
    if closed and len(which) == 1:  # a whole circle is written as two halves
        points = np.vstack([points, spans.evaluate(np.array([0.5]), which)])
        bulges = np.full(2, np.tan(spans.sweep[which[0]] / 8))
    elif not closed:
        points, bulges = np.vstack([points, spans.end[which[-1:]]]), np.append(bulges, 0.0)
    return merged(Contour(points, bulges, closed, layer, name))


def merged(contour: Contour) -> Contour:
    """The contour without points at which nothing happens: a line goes on straight, an arc on its own circle."""
    while len(contour.points) > 2:
        spans = Spans.of([contour])
        count = len(spans)
        if count < 2 or count != len(contour.spans[2]):
            return contour
        following = (np.arange(count) + 1) % count
        last = count if contour.closed else count - 1
        both = spans.curved & spans.curved[following]
        same_circle = (
            both
            & (np.linalg.norm(spans.centre - spans.centre[following], axis=1) < 1e-7)
            & (np.abs(spans.radius - spans.radius[following]) < 1e-7)
            & (np.sign(spans.bulge) == np.sign(spans.bulge[following]))
            & (np.abs(spans.sweep + spans.sweep[following]) < np.radians(350))
        )
        straight = (
            ~spans.curved
            & ~spans.curved[following]
            & (_turns(spans.direction(np.ones(count)), spans.direction(np.zeros(count))[following]) < 1e-10)
        )
        free = (same_circle | straight)[:last]
        if contour.closed and count == 2:
            return contour
        if not free.any():
            return contour
        first = np.nonzero(free)[0]
        first = first[_every_other(first, count)]
        second = following[first]
        bulges = contour.bulges.copy()
        both_of = spans.sweep[first] + spans.sweep[second]
        bulges[first] = np.where(spans.curved[first], np.tan(both_of / 4), 0.0)
        contour = replace(contour, points=np.delete(contour.points, second, axis=0), bulges=np.delete(bulges, second))
    return contour


def _every_other(places: np.ndarray, count: int) -> np.ndarray:
    """Of rising places in a ring of so many, which to take so that no two of them follow each other."""
    run = np.r_[True, np.diff(places) > 1]
    within = np.arange(len(places)) - np.maximum.accumulate(np.where(run, np.arange(len(places)), 0))
    taken = within % 2 == 0
    if len(places) > 1 and taken[-1] and taken[0] and (places[-1] + 1) % count == places[0]:
        taken[-1] = False
    return taken


def _turns(a: Array, b: Array) -> Array:
    cross = a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]
    return np.abs(np.arctan2(cross, (a * b).sum(axis=1)))
