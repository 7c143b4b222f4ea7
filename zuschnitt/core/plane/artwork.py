"""Flat artwork: contours with where they came from."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import cached_property

import numpy as np

from ..errors import Refused
from ..lazy import Lazy
from ..record import record
from .contour import Contour, bounds


@record
class Artwork(Lazy):
    """``contours`` in mm, y up, about the artwork's own origin; ``layered`` where it names some layer of a drawing.

    Contours that were drawn as figures have those' ``numbers``; ``outline`` where some are cut in place of the
    blank's own.
    """

    contours: tuple[Contour, ...]
    name: str = ""
    messages: tuple[str, ...] = ()
    layered: bool = False
    numbers: tuple[int, ...] = ()
    outline: bool = False

    @cached_property
    def bounds(self) -> tuple[float, float, float, float]:
        return bounds(self.contours)

    @property
    def segments(self) -> int:
        return sum(len(contour.points) for contour in self.contours)

    def placed(self, scale: float, turn_degrees: float, at) -> Artwork:
        """Scaled, turned anticlockwise, then shifted by ``at`` (x, y) in mm."""
        if not np.isfinite([scale, turn_degrees, *at]).all() or scale == 0:
            raise Refused("Scale, turn and place of artwork must be finite numbers, the scale not 0; change them.")
        turn = float(np.radians(turn_degrees))
        return replace(self, contours=tuple(c.moved(scale, turn, at) for c in self.contours))

    def mirrored(self) -> Artwork:
        """With left and right exchanged."""
        turned = [replace(c, points=c.points * [-1.0, 1.0], bulges=-c.bulges) for c in self.contours]
        return replace(self, contours=tuple(turned))

    def stretched(self, box: tuple[float, float, float, float], along: bool, across: bool) -> Artwork:
        """With its own box laid onto ``box`` (left, bottom, right, top) in x where ``along``, in y where ``across``.

        Arcs that would not stay round become short lines. Raises Refused where the artwork has no extent to stretch.
        """
        own, wanted = np.reshape(self.bounds, (2, 2)), np.reshape(box, (2, 2))
        size = own[1] - own[0]
        chosen = np.array([along, across])
        if (size[chosen] <= 0).any():
            raise Refused("The artwork has no extent in the direction it is stretched in; fit it in the other one.")
        factor = np.where(chosen, (wanted[1] - wanted[0]) / np.where(size > 0, size, 1.0), 1.0)
        shift = np.where(chosen, wanted[0] - own[0] * factor, 0.0)
        even = bool(abs(factor[0] - factor[1]) < 1e-12)
        fine = STRETCHED / max(float(factor.max()), 1e-9)
        made = []
        for contour in self.contours:
            points, bulges = contour.points, contour.bulges
            if bulges.any() and not even:
                points = contour.flattened(fine)[: -1 if contour.closed else None]
                bulges = np.zeros(len(points))
            made.append(replace(contour, points=points * factor + shift, bulges=bulges))
        return replace(self, contours=tuple(made))


UNNAMED = ""
"""The layer of what is on none that a drawing has, until the whole drawing is known."""


def in_layers(artwork: Artwork) -> Artwork:
    """What is on no layer of a drawing is a mark."""
    layered = any(contour.layer != UNNAMED for contour in artwork.contours)
    contours = tuple(replace(c, layer="MARK") if c.layer == UNNAMED else c for c in artwork.contours)
    return replace(artwork, contours=contours, layered=layered)


STRETCHED = 1e-3
"""Arcs that are stretched one way are flattened to this in mm."""
MOST_POINTS = 1_000_000
"""No artwork has more points than this."""
LARGEST = 1e7
"""No point of artwork lies further from its origin than this, in mm."""


def require_few_points(contours: Sequence[Contour], name: str) -> None:
    """Raises Refused where there are far too many points."""
    if sum(len(contour.points) for contour in contours) > MOST_POINTS:
        raise Refused(f"{name} has more than {MOST_POINTS:,} points; make it simpler, or split it up.")


def checked(artwork: Artwork) -> Artwork:
    """The artwork, if there is something in it and all its numbers are finite; else raises Refused."""
    if not artwork.contours:
        raise Refused(f"{artwork.name} has nothing in it that can be drawn; export its lines, curves or polylines.")
    if not all(np.isfinite(c.points).all() and np.isfinite(c.bulges).all() for c in artwork.contours):
        raise Refused(f"{artwork.name} has numbers that are not finite; mend the drawing and export it again.")
    if max(float(np.abs(c.points).max()) for c in artwork.contours) > LARGEST:
        raise Refused(f"{artwork.name} reaches more than 10 km from its origin; check its unit, and export it again.")
    return artwork
