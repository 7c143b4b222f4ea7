"""Bridges: short pieces of a contour that are not cut, so that the part stays in its sheet."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np

from ..plane.contour import Contour
from ..plane.corners import CONTOUR_CORNER
from ..plane.spans import Spans

SHIFTS = 24
"""So many places of the first bridge are tried within a step."""
LEAST = 6.0
"""Between two bridges at least so many times their width is cut."""


def bridged(contour: Contour, count: int, width: float) -> list[Contour]:
    """The runs of a closed contour between ``count`` bridges ``width`` mm wide, evenly along it, away from corners.

    Where the contour is too short for them it stays whole.
    """
    spans = Spans.of([contour])
    ends = np.cumsum(spans.length)
    whole = float(ends[-1])
    step = whole / max(count, 1)
    if count < 1 or step < (1 + LEAST) * width:
        return [contour]
    middles = (np.arange(count) + _shift(spans, ends, step, count)) * step
    return [
        _run(contour, spans, ends, float(middles[k] + width / 2), float(middles[k] + step - width / 2))
        for k in range(count)
    ]


def _shift(spans: Spans, ends: np.ndarray, step: float, count: int) -> float:
    """Where the first bridge stands, in steps, so that all of them are as far from corners as can be."""
    corner = ends[np.abs(np.roll(spans.turns, -1)) > CONTOUR_CORNER]
    if not len(corner):
        return 0.5
    tried = np.arange(1, SHIFTS) / SHIFTS
    tried = tried[np.argsort(np.abs(tried - 0.5), kind="stable")]
    places = (np.arange(count)[None] + tried[:, None]) * step
    away = np.abs(places[:, :, None] - np.append(corner, 0.0)).min(axis=(1, 2))
    return float(tried[np.argmax(away)])


def _run(contour: Contour, spans: Spans, ends: np.ndarray, begin: float, end: float) -> Contour:
    """The part of a closed contour between two lengths along it; ``end`` may lie beyond one turn."""
    whole = float(ends[-1])
    points, bulges = [], []
    stops = np.concatenate([[begin], *(ends + turn * whole for turn in (0, 1)), [end]])
    stops = np.unique(stops[(stops >= begin) & (stops <= end)])
    for a, b in pairwise(stops.tolist()):
        if b - a < 1e-9:
            continue
        middle = ((a + b) / 2) % whole
        k = int(np.searchsorted(ends, middle))
        before = ends[k] - spans.length[k]
        low = (a - before) % whole / spans.length[k]
        low = 0.0 if low > 1 + 1e-9 else low
        share = (b - a) / spans.length[k]
        points.append(spans.evaluate(np.array([low]), np.array([k]))[0])
        bulges.append(float(np.tan(spans.sweep[k] * share / 4)) if spans.curved[k] else 0.0)
        last = spans.evaluate(np.array([min(low + share, 1.0)]), np.array([k]))[0]
    return replace(
        contour, points=np.array([*points, last]), bulges=np.array([*bulges, 0.0]), closed=False, layer="CUT_OPEN"
    )
