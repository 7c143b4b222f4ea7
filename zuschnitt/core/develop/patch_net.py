"""The rectangle that a patch is laid out as: its corners by number, and a net that is the same on form and blank."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..form.curves import Array
from .blank import Blank

CELLS = 6
"""So many cells of the net lie along the shorter side."""
MOST_CELLS = 60
POINTS = 41
"""Points of a line of the net on the form."""
ASIDE = 1e-5
"""Directions at a corner are looked at so far along its side, as a part of it."""
LENGTH = 100.0
"""A direction is this long, in mm, so that it is exact as it is written."""


@dataclass(frozen=True)
class PatchNet:
    """``corners_blank`` (4, 2) anticlockwise and ``corners_form`` (4, 3); lines of the net on both, of cells that are
    nearly square on the blank."""

    corners_blank: Array
    corners_form: Array
    lines_blank: tuple[Array, ...]
    lines_form: tuple[Array, ...]

    @classmethod
    def of(cls, blank: Blank) -> PatchNet | None:
        """That of a blank of one patch; None for every other blank."""
        whole = next((fold for fold in blank.folds if fold.name == "whole patch"), None)
        if whole is None or len(blank.faces) != 1:
            return None
        corners = whole.points
        along, across = corners[1] - corners[0], corners[3] - corners[0]
        if along[0] * across[1] < along[1] * across[0]:
            corners = corners[[0, 3, 2, 1]]
            along, across = across, along
        width, height = np.linalg.norm(along), np.linalg.norm(across)
        side = max(min(width, height) / CELLS, max(width, height) / MOST_CELLS)
        share = np.linspace(0, 1, POINTS)[:, None]
        flat = []
        for way, other, length in ((along, across, width), (across, along, height)):
            for k in np.linspace(0, 1, max(round(length / side), 1) + 1):
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
