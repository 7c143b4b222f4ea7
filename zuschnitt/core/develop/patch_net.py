"""The rectangle that a patch is laid out as: its corners by number, and a net that is the same on form and blank."""

from __future__ import annotations

import numpy as np

from ..geometry.curves import Array
from ..record import record
from .blank import Blank
from .limits import MOST_CELLS

CELLS = 6
"""So many cells of the net lie along the shorter side, where nobody says how many."""
POINTS = 41
"""Points of a line of the net on the form."""
ASIDE = 1e-5
"""Directions at a corner are looked at so far along its side, as a part of it."""
LENGTH = 100.0
"""A direction is this long, in mm, so that it is exact as it is written."""


@record
class PatchNet:
    """``corners_blank`` (4, 2) anticlockwise and ``corners_form`` (4, 3); lines of the net on both."""

    corners_blank: Array
    corners_form: Array
    lines_blank: tuple[Array, ...]
    lines_form: tuple[Array, ...]

    @classmethod
    def of(cls, blank: Blank) -> PatchNet | None:
        """That of a blank of one patch; None for every other blank."""
        corners = _corners(blank)
        if corners is None:
            return None
        along, across = corners[1] - corners[0], corners[3] - corners[0]
        share = np.linspace(0, 1, POINTS)[:, None]
        flat = []
        for way, other, count in zip((along, across), (across, along), _counts(blank, along, across), strict=True):
            for k in np.linspace(0, 1, count + 1):
                flat.append(corners[0] + k * way + share * other)
        space = blank.correspondence.to_form(np.vstack([corners, *flat])).points
        lines = np.split(space[4:], len(flat))
        return cls(corners, space[:4], tuple(flat), tuple(lines))

    def hold_at(self, blank: Blank, corner: int) -> tuple[Array, Array]:
        """The hold point (3,) and the direction (3,) that lay a corner (from 0) at the origin, its side along x."""
        here, there = self.corners_blank[corner], self.corners_blank[(corner + 1) % 4]
        middle = self.corners_blank.mean(axis=0)
        inner = here + 1e-6 * (middle - here)
        beside = blank.correspondence.to_form(np.array([inner, inner + ASIDE * (there - here)])).points
        along = beside[1] - beside[0]
        return self.corners_form[corner], LENGTH * along / np.linalg.norm(along)


def cells_of(blank: Blank) -> tuple[tuple[int, int], tuple[float, float]] | None:
    """How many cells the net of a patch has along x and y, and the size of one in mm; None where there is no patch."""
    corners = _corners(blank)
    if corners is None:
        return None
    along, across = corners[1] - corners[0], corners[3] - corners[0]
    counts = _counts(blank, along, across)
    sizes = (float(np.linalg.norm(along)) / counts[0], float(np.linalg.norm(across)) / counts[1])
    return (counts, sizes) if _lies_along_x(along) else (counts[::-1], sizes[::-1])


def _corners(blank: Blank) -> Array | None:
    """The corners (4, 2) of a blank of one patch, anticlockwise."""
    whole = next((fold for fold in blank.folds if fold.name == "whole patch"), None)
    if whole is None or len(blank.faces) != 1:
        return None
    corners = whole.points
    along, across = corners[1] - corners[0], corners[3] - corners[0]
    return corners if along[0] * across[1] >= along[1] * across[0] else corners[[0, 3, 2, 1]]


def _counts(blank: Blank, along: Array, across: Array) -> tuple[int, int]:
    """Cells along both sides (2,) of a patch."""
    width, height = float(np.linalg.norm(along)), float(np.linalg.norm(across))
    asked_along, asked_across = blank.cells if _lies_along_x(along) else blank.cells[::-1]
    side = max(min(width, height) / CELLS, max(width, height) / MOST_CELLS)
    if asked_along is not None or asked_across is not None:
        side = width / asked_along if asked_along is not None else height / (asked_across or 1)
    chosen = [min(max(round(length / side), 1), MOST_CELLS) for length in (width, height)]
    return asked_along or chosen[0], asked_across or chosen[1]


def _lies_along_x(side: Array) -> bool:
    return bool(abs(side[0]) >= abs(side[1]))
