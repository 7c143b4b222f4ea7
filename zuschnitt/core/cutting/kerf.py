"""The beam's own width: contours moved to the side of the waste by half of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..plane.containing import holes
from ..plane.contour import Contour
from ..plane.crossing_free import crosses_itself
from ..plane.offsetting import moved_outward

SAME = 1e-7
"""Contours whose points differ by no more than this, in mm, are one shape."""


def compensated(contours: Sequence[Contour], kerf: float) -> tuple[list[Contour], int, int]:
    """Closed contours moved by half the ``kerf``: outer ones outward, holes inward; and how many could not be.

    A hole that is too small for the beam stays as it is drawn, so that it is not lost, and so does what crosses itself;
    the second number counts these. Contours of one shape are moved once.
    """
    made: list[Contour] = []
    small = crossing = 0
    known: dict[tuple[bytes, ...], list[Contour]] = {}
    for contour, hole in zip(contours, holes(contours), strict=True):
        if crosses_itself(contour):
            made.append(contour)
            crossing += 1
            continue
        at = contour.points[0]
        shape = replace(contour, points=contour.points - at)
        key = (np.round(shape.points / SAME).tobytes(), shape.bulges.tobytes(), bytes([bool(hole)]))
        if key not in known:
            known[key] = moved_outward([shape], -kerf / 2 if hole else kerf / 2)
        moved = [replace(each, points=each.points + at, layer=contour.layer, name=contour.name) for each in known[key]]
        made.extend(moved or [contour])
        small += not moved
    return made, small, crossing
