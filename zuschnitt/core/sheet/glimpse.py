"""A sheet part to look at while its values move: its zones as triangles, without true surfaces."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..form.glimpse import Glimpse
from ..geometry.curves import Array
from ..geometry.surfaces import Frame
from .part import SheetPart
from .pieces import zone_bodies

COARSE = 0.15
"""Rolled zones are cut to strips whose chords are within this part of the thickness."""
ROUND = 25
"""Places along each edge of a rolled zone."""


def glimpse(part: SheetPart, stage: float = 1.0) -> Glimpse:
    """The part at a stage from 0, flat, to 1, folded."""
    sag = COARSE * part.thickness
    frames = part.frames(stage)
    bodies = [body.triangles for k, frame in enumerate(frames) for body in zone_bodies(part, k, frame, stage, sag)]
    return Glimpse.of_bodies(bodies, [line for k, frame in enumerate(frames) for line in _lines(part, k, frame, stage)])


def _lines(part: SheetPart, k: int, frame: Frame, stage: float) -> Iterator[Array]:
    """The edges of a zone on both sides of the sheet, and through it where the sheet ends."""
    steps = part.zones[k].steps
    if part.rolled(k, stage) is None:
        flat = [step.points(COARSE * part.thickness) for step in steps]
    else:
        flat = [step.curve.evaluate(np.linspace(step.start, step.end, ROUND)) for step in steps]
    ends = np.cumsum([len(points) for points in flat])[:-1]
    every = np.vstack(flat)
    above, below = (
        np.split(frame.world(part.surface(k, every, stage, height)[0]), ends) for height in (0.0, -part.thickness)
    )
    yield from above
    yield from below
    for step, high, low in zip(steps, above, below, strict=True):
        if step.joint is None:
            yield np.array([high[0], low[0]])
            yield np.array([high[-1], low[-1]])
