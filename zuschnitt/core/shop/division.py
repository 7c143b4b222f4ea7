"""Straight lines that divide a blank into pieces that fit a sheet."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
import shapely

from ..contour import Contour
from ..correspondence import RigidLeaf
from ..develop.blank import Blank
from ..develop.sheet_size import ROUNDED, SheetSize
from ..form.curves import Array
from ..form.form import Form
from ..tolerances import OUTLINE

BEYOND = 1.0
"""Lines run on beyond a piece by so many mm."""
MOST_LINES = 400
PLACES = 2000
"""An edge is looked for at so many places of it."""


def dividing_lines(blank: Blank, width: float, height: float, edge: float) -> tuple[Contour, ...]:
    """Lines on layer MARK across what is larger than ``width`` by ``height`` mm, ``edge`` mm kept free.

    Pieces that are laid exactly can be parted between their faces, so only faces that are too large by themselves are
    divided; a piece with relaxed faces is divided as a whole. Each is divided evenly along and across the narrowest
    rectangle round it.
    """
    size = SheetSize(width, height, edge)
    room = np.array([width, height]) - 2 * edge
    exact = [leaf.rings_blank for leaf in blank.correspondence.leaves if isinstance(leaf, RigidLeaf)]
    made: list[Contour] = []
    for contour in blank.outline:
        ring = contour.flattened(OUTLINE)
        if contour.area > 0 and size.turn(ring, ROUNDED) is None:
            piece = shapely.Polygon(ring)
            parts = [] if _relaxed_within(blank, piece) else [part for part in exact if _lies_in(part, piece)]
            for part in parts or [ring]:
                if size.turn(part, ROUNDED) is None:
                    made.extend(_across(part, room))
    return tuple(made[:MOST_LINES])


def _relaxed_within(blank: Blank, piece: shapely.Polygon) -> bool:
    if blank.mesh is None:
        return False
    centres = blank.mesh.points_blank[blank.mesh.triangles].mean(axis=1)
    return bool(shapely.contains_xy(piece, centres).any())


def _lies_in(points: Array, piece: shapely.Polygon) -> bool:
    return bool(shapely.dwithin(shapely.points(points), piece, 2 * OUTLINE).all())


def _across(ring: Array, room: Array) -> list[Contour]:
    corners = shapely.get_coordinates(shapely.minimum_rotated_rectangle(shapely.MultiPoint(ring)))[:4]
    sides = corners[1] - corners[0], corners[3] - corners[0]
    lengths = np.array([np.linalg.norm(side) for side in sides])
    counts = _counts(lengths, room)
    if counts.prod() == 1:  # it is too large by less than it can be seen to be
        counts = _counts(lengths, room - ROUNDED)
    found = []
    for k in (0, 1):
        along, across = sides[k] / lengths[k], sides[1 - k] / lengths[1 - k]
        for n in range(1, int(counts[k])):
            start = corners[0] + along * lengths[k] * n / counts[k] - BEYOND * across
            end = start + (lengths[1 - k] + 2 * BEYOND) * across
            found.append(Contour.polyline([start, end], layer="MARK"))
    return found


def _counts(lengths: Array, room: Array) -> np.ndarray:
    """Into how many parts (2,) a rectangle is divided along and across, so that they fit the room."""
    return min(
        (np.maximum(np.ceil(lengths / order - 1e-9).astype(int), 1) for order in (room, room[::-1])),
        key=lambda each: int(each.prod()),
    )


def divided_at(form: Form, parents: Sequence[int]) -> tuple[int, ...]:
    """The numbers of the edges at which faces of the form were divided: both sides were one face."""
    return tuple(
        edge.number for edge in form.edges
        if len(edge.faces) == 2 and parents[edge.faces[0] - 1] == parents[edge.faces[1] - 1]
    )  # fmt: skip


def parts_of(form: Form, numbers: Iterable[int], divided: Form) -> tuple[int, ...]:
    """The edges of the ``divided`` form that are parts of edges ``numbers`` of the ``form`` before."""
    assert divided.before is not None
    parents = divided.before.parents
    found: set[int] = set()
    for edge in map(form.edge, numbers):
        places = edge.curve.evaluate(np.linspace(edge.start, edge.end, PLACES))
        near = np.linalg.norm(np.diff(places, axis=0), axis=1).max()
        for part in divided.edges:
            if {parents[n - 1] for n in part.faces} == set(edge.faces):
                middle = part.curve.evaluate(np.array([(part.start + part.end) / 2]))
                if np.linalg.norm(places - middle, axis=1).min() <= near:
                    found.add(part.number)
    return tuple(sorted(found))
