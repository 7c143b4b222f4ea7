"""Closed smooth sections that begin at places that belong together, so that what goes through them is not twisted."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from ..carry.path import Paths
from ..geometry.curves import Array
from ..plane.contour import Contour
from .smooth_arcs import curved_runs

LOOKED_AT = 64
"""Sections are held against each other at so many places along them."""


def begun_alike(sections: Sequence[Contour]) -> Iterator[Contour]:
    """Closed sections, anticlockwise; one without a corner begins where it is most like the one before it.

    The kernel finds by itself what belongs together where there are corners.
    """
    before: Contour | None = None
    for section in sections:
        turned = section if section.area > 0 else section.reversed()
        smooth = _smooth(turned)
        if smooth and before is not None:
            turned = _begun_like(turned, before)
        yield turned
        before = turned if smooth else None


def _smooth(section: Contour) -> bool:
    runs = list(curved_runs(Paths.of([section])))
    return len(runs) == 1 and runs[0][1] is not None


def _begun_like(section: Contour, other: Contour) -> Contour:
    paths = Paths.of([section])
    off = np.linalg.norm(_seen(paths, len(paths.bulge)) - _seen(Paths.of([other]), 1), axis=2)
    best = int((off**2).sum(axis=1).argmin())
    return Contour(np.roll(paths.start, -best, axis=0), np.roll(paths.bulge, -best), True, section.layer, section.name)


def _seen(paths: Paths, starts: int) -> Array:
    """Points (s, LOOKED_AT, 2) evenly along a closed way from each of its ``starts``, as seen from their middle."""
    ends = np.r_[0, np.cumsum(paths.lengths)]
    at = (ends[:starts, None] + ends[-1] * np.arange(LOOKED_AT) / LOOKED_AT) % ends[-1]
    span = np.clip(np.searchsorted(ends, at.ravel(), "right") - 1, 0, len(ends) - 2)
    points = paths.at(span, (at.ravel() - ends[span]) / np.diff(ends)[span]).reshape(*at.shape, 2)
    return points - points.mean(axis=1, keepdims=True)
