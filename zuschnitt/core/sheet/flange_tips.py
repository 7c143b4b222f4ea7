"""Where the free ends of a sheet part's flanges are, to be taken hold of."""

from __future__ import annotations

import numpy as np

from ..geometry.curves import Array
from ..record import record
from .part import SheetPart


@record
class FlangeTip:
    """The middle of a free end, ``point`` (3,); with the flange's length it moves along ``way`` (3,), a unit vector.

    ``flange`` is its place among the flanges that are asked for, ``wall`` that of its wall among those that are bent
    one from the other.
    """

    flange: int
    wall: int
    point: Array
    way: Array


def flange_tips(part: SheetPart, stage: float = 1.0) -> tuple[FlangeTip, ...]:
    """Those of all walls of flanges, at a stage from 0, flat, to 1, folded."""
    found = []
    for zone, frame in zip(part.zones, part.frames(stage), strict=True):
        if zone.flange is not None:
            points = np.vstack([step.points() for step in zone.loops[0]])
            far = points[points[:, 0] > points[:, 0].max() - 1e-6]
            middle = np.array([far[0, 0], (far[:, 1].min() + far[:, 1].max()) / 2, 0.0])
            found.append(FlangeTip(*zone.flange, frame.world(middle), frame.axes[0]))
    return tuple(found)
