"""Contours by place: the span, and how far along it. Places between the points of an arc lie on the arc."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..geometry.curves import Array
from ..plane.contour import Contour
from ..record import record
from .carried import POLYLINE_CORNER

SMALL_ARC = 1e-12
SMOOTH = 1e-6
"""Spans that turn by less than this, in radians, continue each other smoothly."""


@record
class Paths:
    """All spans of several contours, one after the other.

    ``start``, ``end`` (s, 2); ``bulge`` (s,); ``owner`` (s,) is the contour of each span. ``first`` (c + 1,) is where
    the spans of each contour begin; ``corner`` (s,) tells where one begins at a corner, ``kinked`` (s,) where it
    does not continue the one before it smoothly.
    """

    start: Array
    end: Array
    bulge: Array
    owner: np.ndarray
    first: np.ndarray
    corner: np.ndarray
    kinked: np.ndarray

    @staticmethod
    def of(contours: Sequence[Contour]) -> Paths:
        """The spans of contours, those without length left out; each contour must have one with length."""
        spans = [_with_length(*contour.spans) for contour in contours]
        counts = np.array([len(bulge) for _, _, bulge in spans])
        start, end, bulge = (np.concatenate([s[k] for s in spans]) for k in range(3))
        first = np.r_[0, np.cumsum(counts)]
        owner = np.repeat(np.arange(len(contours)), counts)
        half = 2 * np.arctan(bulge)  # half the sweep is the angle between chord and tangent
        chord = np.arctan2(*(end - start).T[::-1])
        turn = (chord - half)[1:] - (chord + half)[:-1]
        turn = np.abs((np.r_[np.pi, turn] + np.pi) % (2 * np.pi) - np.pi)
        turn[first[:-1]] = np.pi
        return Paths(start, end, bulge, owner, first, turn > POLYLINE_CORNER, turn > SMOOTH)

    @property
    def lengths(self) -> Array:
        """The length (s,) of each span in mm."""
        chord = np.linalg.norm(self.end - self.start, axis=1)
        half = 2 * np.arctan(np.abs(self.bulge))
        return chord * np.where(half > 1e-9, half / np.sin(np.maximum(half, 1e-9)), 1.0)

    def at(self, span: np.ndarray, part: Array) -> Array:
        """Points (n, 2) at ``part`` (n,) of the way along spans (n,)."""
        start, end, bulge = self.start[span], self.end[span], self.bulge[span]
        chord = end - start
        along, across = part.copy(), np.zeros(len(part))
        curved = np.nonzero(np.abs(bulge) > SMALL_ARC)[0]
        if len(curved):  # in a frame whose x runs from the start to the end, of length 1
            half = 2 * np.arctan(bulge[curved])
            radius = 1 / (2 * np.sin(half))
            angle = half * (2 * part[curved] - 1)
            along[curved] = 0.5 + radius * np.sin(angle)
            across[curved] = radius * (np.cos(half) - np.cos(angle))
        at = start + along[:, None] * chord + across[:, None] * np.stack([-chord[:, 1], chord[:, 0]], axis=1)
        at[part == 1] = end[part == 1]
        return at


def _with_length(start: Array, end: Array, bulge: Array) -> tuple[Array, Array, Array]:
    long = (start != end).any(axis=1)
    return start[long], end[long], bulge[long]
