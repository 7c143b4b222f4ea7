"""Runs of tiny lines that stand for a smooth curve, as polylines of artwork have them."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..geometry.curves import Spline
from ..geometry.smooth import smooth_through
from .path import Paths

FACETED = 5e-3
"""A smooth curve through the points of a polyline stands for it when it stays this near, in mm."""
UNEVEN = 5.0
"""A line that is so many times as long as the next one is a line."""
FEW = 3
"""No more lines than this are left as lines."""


def smooth_groups(paths: Paths, spans: np.ndarray, whole: np.ndarray | None = None) -> Iterator[np.ndarray]:
    """Spans (their numbers) of one contour in groups: one that stands for itself, or lines that stand for a curve.

    Only spans that are ``whole`` (n,) can stand for a curve together.
    """
    line = paths.bulge[spans] == 0
    whole = np.ones(len(spans), bool) if whole is None else whole
    size = np.linalg.norm(paths.end[spans] - paths.start[spans], axis=1)
    uneven = np.maximum(size[1:], size[:-1]) > UNEVEN * np.minimum(size[1:], size[:-1])
    begins = np.r_[True, paths.corner[spans[1:]] | ~(line[1:] & line[:-1]) | ~(whole[1:] & whole[:-1]) | uneven]
    for group in np.split(spans, np.nonzero(begins)[0][1:]):
        if len(group) > FEW and smooth_curve(paths, group) is not None:
            yield group
        else:
            yield from group[:, None]


def smooth_curve(paths: Paths, spans: np.ndarray) -> Spline | None:
    """The smooth curve through the ends of spans; None where it leaves them."""
    curve = smooth_through(np.vstack([paths.start[spans], paths.end[spans[-1:]]]))
    if not isinstance(curve, Spline):
        return None
    knots = np.r_[0, np.cumsum(np.linalg.norm(paths.end[spans] - paths.start[spans], axis=1))]
    for part in (0.25, 0.5, 0.75):
        off = curve.evaluate(knots[:-1] + part * np.diff(knots)) - paths.at(spans, np.full(len(spans), part))
        if np.linalg.norm(off, axis=1).max() > FACETED:
            return None
    return curve
