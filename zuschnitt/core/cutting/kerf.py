"""The beam's own width: contours moved to the side of the waste by half of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..plane.contour import Contour
from ..plane.crossing_free import crosses_itself
from ..plane.offsetting import moved_outward
from ..record import record

SAME = 1e-7
"""Contours whose points differ by no more than this, in mm, are one shape."""


@record
class Compensated:
    """``contours`` as the beam runs, ``origin`` (n,) the places of those that they were drawn as.

    ``small`` and ``crossing`` are the places of those that stay as drawn.
    """

    contours: tuple[Contour, ...]
    origin: np.ndarray
    small: tuple[int, ...]
    crossing: tuple[int, ...]

    @property
    def moved(self) -> np.ndarray:
        """Which contours (n,) are not as they were drawn."""
        return ~np.isin(self.origin, [*self.small, *self.crossing])


def compensated(contours: Sequence[Contour], hole: np.ndarray, kerf: float) -> Compensated:
    """Closed contours moved by half the ``kerf`` in mm: outer ones outward, those of a ``hole`` (n,) inward.

    A hole that is too small for the beam stays as it is drawn, so that it is not lost, and so does what crosses itself.
    Contours of one shape are moved once.
    """
    made: list[Contour] = []
    origin: list[int] = []
    small, crossing = [], []
    known: dict[tuple[bytes, ...], list[Contour]] = {}
    for place, (contour, inward) in enumerate(zip(contours, hole.tolist(), strict=True)):
        moved = [contour]
        if crosses_itself(contour):
            crossing.append(place)
        else:
            at = contour.points[0]
            shape = replace(contour, points=contour.points - at)
            key = (np.round(shape.points / SAME).tobytes(), shape.bulges.tobytes(), bytes([inward]))
            if key not in known:
                known[key] = moved_outward([shape], -kerf / 2 if inward else kerf / 2)
            if known[key]:
                moved = [
                    replace(each, points=each.points + at, layer=contour.layer, name=contour.name)
                    for each in known[key]
                ]
            else:
                small.append(place)
        made.extend(moved)
        origin.extend([place] * len(moved))
    return Compensated(tuple(made), np.array(origin, int), tuple(small), tuple(crossing))
