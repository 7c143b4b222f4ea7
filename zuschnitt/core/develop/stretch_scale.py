"""The scale on which stretch is shown: purple where it is compressed, orange where it is stretched."""

from __future__ import annotations

import numpy as np

from ..geometry.curves import Array

STOPS = np.array(
    [[84, 39, 136], [153, 142, 195], [216, 218, 235], [246, 245, 240], [254, 224, 182], [241, 163, 64], [179, 88, 6]],
    float,
)
"""Compressed, through unchanged, to stretched; told apart by the colour-blind too (ColorBrewer PuOr)."""


def colours(percent: Array, limit: float) -> np.ndarray:
    """RGB (n, 3) for stretches (n,) in percent, the ends of the scale at ± ``limit``."""
    at = np.clip(percent / limit, -1, 1) * 3 + 3
    low = np.clip(np.floor(at).astype(int), 0, 5)
    part = (at - low)[:, None]
    return np.round(STOPS[low] * (1 - part) + STOPS[low + 1] * part).astype(np.uint8)


def mapped(stretch: Array, which: str) -> Array:
    """What a map shows of the principal stretches (t, 2), the larger first: (t,) in percent."""
    return 100 * stretch[:, 1 if which == "compression" else 0]


def scale_limit(stretch: Array) -> float:
    """A round limit in percent that holds nearly all of the stretches."""
    reach = float(100 * np.quantile(np.abs(stretch), 0.998)) or 0.01
    power = 10.0 ** np.floor(np.log10(reach))
    return float(next(step * power for step in (1, 2, 3, 5, 10) if step * power >= reach * 0.999))
