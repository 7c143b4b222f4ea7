"""What is written on the pieces so that they can be put together: letters, and edge numbers in pairs."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely

from ..form.form import Form
from ..geometry.curves import Array
from ..plane.contour import Contour
from ..plane.lettering import lettering
from .blank import Blank
from .piece import FLAT, OutlineSide, Piece

LARGEST = 6.0
"""Height of the em square of what is written, in mm, at the most."""


def labelled(form: Form, blank: Blank) -> Blank:
    """The blank with what is written on its pieces, and across their outlines where blanks are to meet."""
    marked = _with_matches(form, blank, _numbered(blank.pieces))
    return replace(blank, pieces=marked)


def _numbered(pieces: Sequence[Piece]) -> tuple[Piece, ...]:
    """Pieces with contours on layer TEXT: the name of each, and a number along each edge to join."""
    size = min(LARGEST, 0.12 * float(np.sqrt(min((piece.shape.area for piece in pieces), default=0.0))))
    if size <= 0.5:
        return tuple(pieces)
    pairs = Counter(side.label for piece in pieces for side in piece.sides if side.label)
    made = []
    for piece in pieces:
        marks: list[Contour] = []
        if piece.name:
            middle = shapely.maximum_inscribed_circle(piece.shape, tolerance=1.0).coords[0]
            marks.extend(_written(piece.name, np.array(middle), np.array([1.0, 0.0]), 2 * size))
        for side in piece.sides:
            if pairs[side.label] == 2:
                marks.extend(_beside(side, size))
        made.append(replace(piece, marks=tuple(marks)))
    return tuple(made)


def _with_matches(form: Form, blank: Blank, pieces: Sequence[Piece]) -> tuple[Piece, ...]:
    """With short ticks across the outline, and their names, where blanks are to meet when they are put together."""
    size = min(LARGEST, 0.1 * float(np.sqrt(blank.figures.area_blank / max(len(blank.outline), 1))))
    made = list(pieces)
    for match in form.matches:
        for face in match.faces:
            mine = [k for k, piece in enumerate(made) if face in piece.faces]
            if not mine:
                continue
            at = shapely.Point(blank.correspondence.to_blank(match.point[None], [face]).points[0])
            k = min(mine, key=lambda k: made[k].shape.distance(at))
            made[k] = replace(made[k], marks=(*made[k].marks, *_tick(made[k], at, match.label, size)))
    return tuple(made)


def _tick(piece: Piece, at: shapely.Point, label: str, size: float) -> list[Contour]:
    """A tick from the outline of a piece inwards, next to a point, and what is written at it."""
    lines = shapely.union_all([shapely.LineString(c.flattened(FLAT)) for c in piece.outline])
    along = float(lines.project(at))
    on, ahead = (np.array(lines.interpolate(along + step).coords[0]) for step in (0.0, 0.2))
    direction = (ahead - on) / max(float(np.linalg.norm(ahead - on)), 1e-12)
    inward = np.array([-direction[1], direction[0]])
    if not piece.shape.contains(shapely.Point(on + 0.3 * inward)):
        inward = -inward
    tick = Contour.polyline([on, on + size * inward], layer="MARK", name=label)
    return [tick, *_written(label, on + 1.7 * size * inward, direction, 0.8 * size)]


def _beside(side: OutlineSide, size: float) -> list[Contour]:
    """The number inside the edge, at its middle, to be read along it."""
    points = side.points
    lengths = np.r_[0, np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))]
    if lengths[-1] < 2 * size:
        return []
    near = np.array([0.49, 0.5, 0.51]) * lengths[-1]
    a, middle, b = np.stack([np.interp(near, lengths, points[:, k]) for k in (0, 1)], axis=1)
    along = (b - a) / max(float(np.linalg.norm(b - a)), 1e-12)
    inward = np.array([-along[1], along[0]])
    return _written(side.label, middle + 0.9 * size * inward, along, size)


def _written(text: str, middle: Array, along: Array, size: float) -> list[Contour]:
    """Text with its middle at a point, along a direction, never upside down."""
    contours, width = lettering(text, size)
    turn = float(np.arctan2(along[1], along[0]))
    if abs(turn) > np.pi / 2 + 1e-9:
        turn += np.pi
    back = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]]) @ [width / 2, 0.35 * size]
    return [replace(c.moved(1.0, turn, middle - back), layer="TEXT", name=text) for c in contours]
