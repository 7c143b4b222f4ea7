"""Smooth curves of the plane as runs of arcs that go on in each other's direction."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..errors import Refused
from ..geometry.curves import Array
from .contour import Contour

TRUE = 1e-5
"""The arcs lie within this of the curve, in mm."""
MOST = 8000
STRAIGHT = 1e-7
"""An arc that rises less than this over its chord, in mm, is a line."""

Curve = Callable[[Array], tuple[Array, Array]]


def as_arcs(curve: Curve, breaks: Array, closed: bool, layer: str = "CUT", name: str = "") -> Contour:
    """A curve as pairs of arcs, within ``TRUE`` mm and tangent to it at their ends.

    ``curve`` gives points (n, 2) and derivatives (n, 2) at parameters (n,); it is smooth between ``breaks`` (k,). Two
    arcs between points with directions: the one whose lengths of tangents are equal (Bolton, "Biarc curves",
    Computer-Aided Design 7, 1975). Raises Refused where too many would be needed.
    """
    low, high = breaks[:-1], breaks[1:]
    for _ in range(14):
        points, bulges = _pairs(curve, low, high)
        bad = _off(curve, low, high, points, bulges) > TRUE
        if not bad.any():
            break
        middle = (low[bad] + high[bad]) / 2
        low = np.sort(np.concatenate([low, middle]))
        high = np.sort(np.concatenate([high, middle]))
        if len(low) > MOST:
            raise Refused("This curve turns too sharply; move its points apart, or leave some of them out.")
    bulges = np.where(_sagitta(points, np.vstack([points[1:], curve(breaks[-1:])[0]]), bulges) < STRAIGHT, 0.0, bulges)
    made = np.vstack([points, curve(breaks[-1:])[0]]) if not closed else points
    bends = bulges if closed else np.append(bulges, 0.0)
    return Contour(made, bends, closed, layer, name)


def _pairs(curve: Curve, low: Array, high: Array) -> tuple[Array, Array]:
    """Points (2n, 2) and bulges (2n,) of pairs of arcs between parameters."""
    p, a = _with_direction(curve, low)
    q, b = _with_direction(curve, high)
    v, t = q - p, a + b
    vt, same = (v * t).sum(axis=1), 2 * (1 - (a * b).sum(axis=1))
    vv = (v * v).sum(axis=1)
    with np.errstate(divide="ignore", invalid="ignore"):
        d = np.where(same > 1e-12, (-vt + np.sqrt(vt**2 + same * vv)) / same, vv / (2 * vt))
    joint = (p + a * d[:, None] + q - b * d[:, None]) / 2
    points = np.stack([p, joint], axis=1).reshape(-1, 2)
    first, second = joint - p, q - joint
    bulges = np.stack([np.tan(_angle(a, first) / 2), np.tan(_angle(second, b) / 2)], axis=1).reshape(-1)
    return points, bulges


def _sagitta(start: Array, end: Array, bulges: Array) -> Array:
    """How far arcs rise over their chords."""
    return np.linalg.norm(end - start, axis=1) / 2 * np.abs(bulges)


def _angle(a: Array, b: Array) -> Array:
    return np.arctan2(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], (a * b).sum(axis=1))


def _with_direction(curve: Curve, at: Array) -> tuple[Array, Array]:
    points, slopes = curve(at)
    return points, slopes / np.maximum(np.linalg.norm(slopes, axis=1), 1e-300)[:, None]


def _off(curve: Curve, low: Array, high: Array, points: Array, bulges: Array) -> Array:
    """How far the curve leaves its pairs of arcs, looked at in seven places of each."""
    from .spans import Spans

    ends = np.vstack([points[1:], curve(high[-1:])[0]])
    spans = Spans(points, ends, bulges, np.zeros(len(points), int))
    worst = np.zeros(len(low))
    for k in range(1, 8):
        at, _ = curve(low + (high - low) * k / 8)
        pair = np.arange(len(low)) * 2
        worst = np.maximum(worst, np.minimum(spans.distance(at, pair), spans.distance(at, pair + 1)))
    return worst
