"""Straight lines that divide a blank into pieces that fit a sheet."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from ..contour import Contour
from ..develop.blank import Blank
from ..develop.sheet_size import SheetSize
from ..form.curves import Array
from ..form.form import Form
from ..tolerances import OUTLINE

BEYOND = 1.0
"""Lines run on beyond a piece by so many mm."""
MOST_LINES = 400


def dividing_lines(blank: Blank, width: float, height: float, edge: float) -> tuple[Contour, ...]:
    """Lines on layer MARK across the pieces that are larger than ``width`` by ``height`` mm, ``edge`` mm kept free.

    Each piece is divided evenly along and across the narrowest rectangle round it.
    """
    size = SheetSize(width, height, edge)
    room = np.array([width, height]) - 2 * edge
    made: list[Contour] = []
    for contour in blank.outline:
        ring = contour.flattened(OUTLINE)
        if contour.area > 0 and size.turn(ring) is None:
            made.extend(_across(ring, room))
    return tuple(made[:MOST_LINES])


def _across(ring: Array, room: Array) -> list[Contour]:
    corners = shapely.get_coordinates(shapely.minimum_rotated_rectangle(shapely.MultiPoint(ring)))[:4]
    sides = corners[1] - corners[0], corners[3] - corners[0]
    lengths = np.array([np.linalg.norm(side) for side in sides])
    counts = min(
        (np.maximum(np.ceil(lengths / order - 1e-9).astype(int), 1) for order in (room, room[::-1])),
        key=lambda each: int(each.prod()),
    )
    found = []
    for k in (0, 1):
        along, across = sides[k] / lengths[k], sides[1 - k] / lengths[1 - k]
        for n in range(1, int(counts[k])):
            start = corners[0] + along * lengths[k] * n / counts[k] - BEYOND * across
            end = start + (lengths[1 - k] + 2 * BEYOND) * across
            found.append(Contour.polyline([start, end], layer="MARK"))
    return found


def divided_at(form: Form, parents: Sequence[int]) -> tuple[int, ...]:
    """The numbers of the edges at which faces of the form were divided: both sides were one face."""
    return tuple(
        edge.number for edge in form.edges
        if len(edge.faces) == 2 and parents[edge.faces[0] - 1] == parents[edge.faces[1] - 1]
    )  # fmt: skip
