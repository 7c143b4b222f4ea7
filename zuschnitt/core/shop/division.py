"""Straight lines that divide a blank into pieces that fit a sheet."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
import shapely

from ..correspondence import RigidLeaf
from ..develop.blank import Blank
from ..develop.sheet_size import ROUNDED, SheetSize
from ..form.form import Form
from ..geometry.curves import Array
from ..plane.contour import Contour
from ..tolerances import OUTLINE

BEYOND = 1.0
"""Lines run on beyond a piece by so many mm."""
MOST_LINES = 400
SHIFTS = (0.0, 0.07, 0.13)
"""Lines begin before the piece by these parts of its length, one after the other, where they would run along edges."""
ALONG = 0.01
"""A line runs along an edge where it is nearer to it than this part of the size of the form."""
POLE = 1e-6
"""An edge no larger than this part of the form is a pole."""
EDGE_PLACES, LINE_PLACES = 200, 60
PLACES = 2000
"""An edge is looked for at so many places of it."""


def dividing_lines(blank: Blank, form: Form, width: float, height: float, edge: float) -> tuple[Contour, ...]:
    """Lines on layer MARK across what is larger than ``width`` by ``height`` mm, ``edge`` mm kept free.

    Pieces that are laid exactly can be parted between their faces, so only faces that are too large by themselves are
    divided; a piece with relaxed faces is divided as a whole. Each is divided evenly along and across the narrowest
    rectangle round it; lines that would run along an edge of the ``form`` are moved aside.
    """
    size = SheetSize(width, height, edge)
    room = np.array([width, height]) - 2 * edge
    exact = [leaf.rings_blank for leaf in blank.correspondence.leaves if isinstance(leaf, RigidLeaf)]
    made: list[Contour] = []
    edges = _Edges(form, blank)
    for contour in blank.outline:
        ring = contour.flattened(OUTLINE)
        if contour.area > 0 and size.turn(ring, ROUNDED) is None:
            piece = shapely.Polygon(ring)
            parts = [] if _relaxed_within(blank, piece) else [part for part in exact if _lies_in(part, piece)]
            for part in parts or [ring]:
                if size.turn(part, ROUNDED) is None:
                    made.extend(_across(part, room, edges))
    return tuple(made[:MOST_LINES])


def _relaxed_within(blank: Blank, piece: shapely.Polygon) -> bool:
    if blank.mesh is None:
        return False
    centres = blank.mesh.points_blank[blank.mesh.triangles].mean(axis=1)
    return bool(shapely.contains_xy(piece, centres).any())


def _lies_in(points: Array, piece: shapely.Polygon) -> bool:
    return bool(shapely.dwithin(shapely.points(points), piece, 2 * OUTLINE).all())


def _across(ring: Array, room: Array, edges: _Edges) -> list[Contour]:
    corners = shapely.get_coordinates(shapely.minimum_rotated_rectangle(shapely.MultiPoint(ring)))[:4]
    sides = corners[1] - corners[0], corners[3] - corners[0]
    lengths = np.array([np.linalg.norm(side) for side in sides])
    counts = _counts(lengths, room)
    if counts.prod() == 1:  # it is too large by less than it can be seen to be
        counts = _counts(lengths, room - ROUNDED)
    found = []
    for k in (0, 1):
        along, across = sides[k] / lengths[k], sides[1 - k] / lengths[1 - k]
        if counts[k] == 1:
            continue
        for shift in SHIFTS:
            # evenly, from a little before the beginning, so that no part is larger than it may be
            count = int(np.ceil(counts[k] * (1 + shift) - 1e-9)) if shift else int(counts[k])
            places = np.arange(1, count) * lengths[k] * (1 + shift) / count - shift * lengths[k]
            starts = corners[0] + along * places[:, None] - BEYOND * across
            ends = starts + (lengths[1 - k] + 2 * BEYOND) * across
            lines = [Contour.polyline(ends, layer="MARK") for ends in np.stack([starts, ends], axis=1)]
            if not any(edges.run_along(line) for line in lines):
                break
        found.extend(lines)
    return found


class _Edges:
    """The edges of a form, as a blank of it has them."""

    def __init__(self, form: Form, blank: Blank) -> None:
        from scipy.spatial import cKDTree

        self._blank = blank
        self._near = ALONG * form.size
        spans = [edge.curve.evaluate(np.linspace(edge.start, edge.end, EDGE_PLACES)) for edge in form.edges]
        poles = [points for points in spans if np.ptp(points, axis=0).max() <= POLE * form.size]
        self._tree, self._poles = (cKDTree(np.vstack(each)) if each else None for each in (spans, poles))

    def run_along(self, line: Contour) -> bool:
        """Whether a line runs nearly along an edge for a good part of it, or past a pole: slivers would be left."""
        share = np.linspace(0, 1, LINE_PLACES)[:, None]
        at = self._blank.correspondence.to_form(line.points[0] + share * (line.points[1] - line.points[0]))
        if self._tree is None or not at.inside.any():
            return False
        points = at.points[at.inside]
        if self._poles is not None and self._poles.query(points)[0].min() <= self._near:
            return True
        return bool((self._tree.query(points)[0] <= self._near).mean() > 0.3)


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
