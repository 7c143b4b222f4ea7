"""Runs of small arcs that stand for a smooth curve, as ellipses, letters and curves through points have them."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..carry.path import Paths
from ..geometry.curves import Spline

SMOOTH = 1e-4
"""Arcs that turn by no more than this, in radians, where they meet, go on in each other's direction."""
SMALL = np.radians(20)
"""An arc that turns by more than this is meant as an arc."""
UNEVEN = 5.0
"""So is one that is so many times as long as the next one."""
FEW = 8
"""So are fewer arcs than this, one after the other."""
VARIED = 0.01
"""So are those whose curvatures differ by no more than this part of the largest."""
TRUE = 2e-5
"""The smooth curve lies within this of the arcs, in mm."""
LOOKED_AT = (0.0, 0.25, 0.5, 0.75)
"""Where along each arc that is looked at."""
SKIPPED = (8, 4, 2, 1)
"""The curve goes through every so many of the ends of arcs: as few of them as will do."""


def curved_runs(paths: Paths) -> Iterator[tuple[np.ndarray, Spline | None]]:
    """All spans of one contour in runs: those that stand for a curve, with that, and what lies between them."""
    spans, lengths, sweep = np.arange(len(paths.bulge)), paths.lengths, 4 * np.arctan(paths.bulge)
    chord = np.arctan2(*(paths.end - paths.start).T[::-1])
    turn = (chord - sweep / 2)[1:] - (chord + sweep / 2)[:-1]
    turn = np.abs((turn + np.pi) % (2 * np.pi) - np.pi)
    wide = np.abs(sweep) > SMALL
    uneven = np.maximum(lengths[1:], lengths[:-1]) > UNEVEN * np.minimum(lengths[1:], lengths[:-1])
    others: list[np.ndarray] = []
    for run in np.split(spans, np.nonzero((turn > SMOOTH) | wide[1:] | wide[:-1] | uneven)[0] + 1):
        curvature = sweep[run] / lengths[run]
        varied = curvature.max() - curvature.min() > VARIED * np.abs(curvature).max()
        curve = _curve(paths, run, lengths[run]) if len(run) >= FEW and varied else None
        if curve is None:
            others.append(run)
            continue
        if others:
            yield np.concatenate(others), None
        others = []
        yield run, curve
    if others:
        yield np.concatenate(others), None


def _curve(paths: Paths, run: np.ndarray, lengths: np.ndarray) -> Spline | None:
    """The smooth curve along a run; None where none is near enough."""
    from scipy.interpolate import make_interp_spline

    ends = np.vstack([paths.start[run], paths.end[run[-1:]]])
    at = np.r_[0, np.cumsum(lengths)]
    for skipped in SKIPPED:
        kept = np.unique(np.r_[np.arange(0, len(ends), skipped), len(ends) - 1])
        if len(kept) < FEW:
            continue
        made = make_interp_spline(at[kept], ends[kept], 3)
        curve = Spline(made.t, made.c, made.k)
        apart = [
            curve.evaluate(at[:-1] + part * lengths) - paths.at(run, np.full(len(run), part)) for part in LOOKED_AT
        ]
        if np.linalg.norm(np.vstack(apart), axis=1).max() <= TRUE:
            return curve
    return None
