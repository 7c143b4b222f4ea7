"""Walls of a thickness along profiles: within a closed one, or on both sides of an open one."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..errors import Refused
from .combining import combined, united
from .contour import Contour
from .offsetting import moved_outward
from .spans import Spans


def walled(contours: Sequence[Contour], wall: float) -> list[Contour]:
    """Closed contours round walls ``wall`` mm thick: inwards from closed profiles, half on each side of open ones.

    Raises Refused where a profile has no room for it.
    """
    closed, opened = [c for c in contours if c.closed], [c for c in contours if not c.closed]
    made: list[Contour] = []
    if closed:
        outer = united([closed])
        inner = moved_outward(outer, -wall)
        made.extend(combined(outer, inner, "less") if inner else outer)
    for contour in opened:
        made.extend(_band(contour, wall))
    return made


def _band(contour: Contour, wall: float) -> list[Contour]:
    """What lies within half a wall of an open contour, its ends square."""
    spans = Spans.of([contour])
    back = spans.turned_round().at(np.arange(len(spans))[::-1])
    there_and_back = Contour(
        np.vstack([spans.start, back.start]),
        np.concatenate([spans.bulge, back.bulge]),
        True,
        contour.layer,
        contour.name,
    )
    band = moved_outward([there_and_back], wall / 2)
    if not band:
        raise Refused("There is no room for that wall along the profile; make it thinner.")
    ends = (
        (spans.start[0], -spans.direction(np.zeros(len(spans)))[0]),
        (spans.end[-1], spans.direction(np.ones(len(spans)))[-1]),
    )
    for at, out in ends:
        across = np.array([-out[1], out[0]]) * 0.75 * wall
        square = Contour.polyline(
            [at - across, at - across + wall * out, at + across + wall * out, at + across], closed=True
        )
        band = combined(band, [square], "less")
    return band
