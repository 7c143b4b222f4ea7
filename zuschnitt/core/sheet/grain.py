"""The grain of a sheet: bends that run along it crack sooner than those square to it."""

from __future__ import annotations

import numpy as np

from ..wording import counted
from .flat import bend_lines
from .part import SheetPart

NEAR = np.radians(30.0)
"""A bend that is turned from the grain by less runs along it. A typical value."""


def along_the_grain(part: SheetPart, grain: float) -> float:
    """How much of the bends runs along the grain, in mm: their lengths by the cosine of the angle between.

    ``grain`` is its direction on the flat, in radians from the x axis.
    """
    way = np.array([np.cos(grain), np.sin(grain)])
    return float(sum(abs((b - a) @ way) for line in bend_lines(part) for a, b in line.lines))


def warned_of_grain(part: SheetPart, grain: float) -> list[str]:
    """The bends that run along the grain, by their numbers, in a sentence."""
    way = np.array([np.cos(grain), np.sin(grain)])
    found = [
        line.number for line in bend_lines(part)
        if abs((line.ends[1] - line.ends[0]) @ way) > np.cos(NEAR) * np.linalg.norm(line.ends[1] - line.ends[0])
    ]  # fmt: skip
    if not found:
        return []
    names = ", ".join(map(str, found))
    verb = "runs" if len(found) == 1 else "run"
    return [f"{counted(len(found), 'bend')} {verb} along the grain and may crack there: {names}."]
