"""The beam's own width: contours moved to the side of the waste by half of it."""

from __future__ import annotations

from collections.abc import Sequence

from ..contour import Contour
from ..plane.containing import depths, parents
from ..plane.offsetting import moved_outward


def compensated(contours: Sequence[Contour], kerf: float) -> tuple[list[Contour], int]:
    """Closed contours moved by half the ``kerf``: outer ones outward, holes inward; and how many could not be.

    A hole that is too small for the beam stays as it is drawn, so that it is not lost.
    """
    made: list[Contour] = []
    kept = 0
    for contour, depth in zip(contours, depths(parents(contours)), strict=True):
        moved = moved_outward([contour], kerf / 2 if depth % 2 == 0 else -kerf / 2)
        made.extend(moved or [contour])
        kept += not moved
    return made, kept
