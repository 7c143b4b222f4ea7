"""Pieces within the size of a sheet: whether one fits, turned as need be, and how it is turned."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from ..errors import CannotBeDone
from ..geometry.curves import Array
from ..record import record
from ..tolerances import OUTLINE
from .piece import Piece

TURNS = np.linspace(0, np.pi / 2, 91)[:-1]
"""These turns are tried besides those that lay a side of the piece along the sheet."""
STEPS = np.linspace(-1, 1, 41)
FINER = tuple(np.radians(reach) * STEPS for reach in (1.0, 0.05, 0.0025))
"""Round the best of them, turns are tried nearer and nearer to it,"""
NEARER = np.radians(1.1)
"""where it is no further off than this can mend."""
ROUNDED = 0.05
"""What is looked at before its outline is known may turn out larger by so many mm."""
SLACK = 1e-6
"""A piece may be larger by so many mm."""


@record
class SheetSize:
    """No piece is larger than ``width`` by ``height`` mm; ``edge`` mm of that all round are for what is added to it."""

    width: float
    height: float
    edge: float = 0.0

    def turn(self, points: Array, spare: float = 0.0) -> Array | None:
        """A turn (2, 2) that brings ``points`` (n, 2) within the sheet; None where none of those tried does.

        ``spare`` mm of the sheet are left free.
        """
        hull = corners_of_hull(points)
        sides = np.roll(hull, -1, axis=0) - hull
        angles = np.r_[0.0, -np.arctan2(sides[:, 1], sides[:, 0]), TURNS]
        room = np.array([self.width, self.height]) - 2 * self.edge - spare + SLACK
        # turned by an angle, no side of the box grows or shrinks by more than that part of its diagonal
        hope = NEARER * float(np.linalg.norm(np.ptp(hull, axis=0)))
        for finer in (*FINER, None):
            both = np.r_[angles, angles + np.pi / 2]
            over = self._over(hull, both, room)
            if (fits := np.nonzero(over <= 0)[0]).size:
                angle = float(both[fits[0]])
                return np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
            if finer is None or over.min() > hope:
                break
            angles = both[over.argmin()] + finer
        return None

    @staticmethod
    def _over(hull: Array, angles: Array, room: Array) -> Array:
        """By how much (n,) a hull, turned by each of the angles, is larger than the room, the worse way."""
        cosine, sine = np.cos(angles), np.sin(angles)
        across = np.ptp(np.multiply.outer(cosine, hull[:, 0]) - np.multiply.outer(sine, hull[:, 1]), axis=1)
        upwards = np.ptp(np.multiply.outer(sine, hull[:, 0]) + np.multiply.outer(cosine, hull[:, 1]), axis=1)
        return np.asarray(np.maximum(across - room[0], upwards - room[1]))

    def require(self, pieces: Sequence[Piece]) -> None:
        """Raises CannotBeDone where a finished piece, tabs and all, does not fit."""
        whole = SheetSize(self.width, self.height)
        rings = [np.vstack([contour.flattened(OUTLINE) for contour in piece.outline]) for piece in pieces]
        large = [ring for ring in rings if whole.turn(ring) is None]
        if large:
            box = shapely.minimum_rotated_rectangle(shapely.MultiPoint(large[0]))
            corners = shapely.get_coordinates(box)
            long, short = sorted(np.linalg.norm(np.diff(corners[:3], axis=0), axis=1), reverse=True)
            raise CannotBeDone(
                f"{len(large)} of {len(rings)} pieces would be larger than {self.width:g} x {self.height:g} mm (one is "
                f"{long:.0f} x {short:.0f} mm) and have no edge to be parted at; name a larger sheet, take narrower "
                "tabs, or cut these faces open first."
            )


def corners_of_hull(points: Array) -> Array:
    """The corners (m, 2) of the convex hull of points (n, 2)."""
    hull = shapely.get_coordinates(shapely.convex_hull(shapely.MultiPoint(points)))
    return hull[:-1] if len(hull) > 2 else hull
