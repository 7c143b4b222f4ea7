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
from .blank import Blank
from .piece import FLAT, OutlineSide, Piece
from .word import Word

LARGEST = 6.0
"""Height of the em square of what is written, in mm, at the most."""


def labelled(form: Form, blank: Blank) -> Blank:
    """The blank with what is written on its pieces, and across their outlines where blanks are to meet."""
    marked = _with_matches(form, blank, _numbered(blank.pieces))
    return replace(blank, pieces=marked)


def _numbered(pieces: Sequence[Piece]) -> tuple[Piece, ...]:
    """Pieces with words on them: the name of each, and a number along each edge to join."""
    size = min(LARGEST, 0.12 * float(np.sqrt(min((piece.shape.area for piece in pieces), default=0.0))))
    if size <= 0.5:
        return tuple(pieces)
    pairs = Counter(side.label for piece in pieces for side in piece.sides if side.label)
    made = []
    for piece in pieces:
        words: list[Word] = []
        if piece.name:
            middle = shapely.maximum_inscribed_circle(piece.shape, tolerance=1.0).coords[0]
            words.append(Word(piece.name, 2 * size, np.array(middle)))
        for side in piece.sides:
            if pairs[side.label] == 2:
                words.extend(_beside(side, size))
        made.append(replace(piece, words=tuple(words)))
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
            tick, word = _tick(made[k], at, match.label, size)
            made[k] = replace(made[k], ticks=(*made[k].ticks, tick), words=(*made[k].words, word))
    return tuple(made)


def _tick(piece: Piece, at: shapely.Point, label: str, size: float) -> tuple[Contour, Word]:
    """A tick from the outline of a piece inwards, next to a point, and what is written at it."""
    lines = shapely.union_all([shapely.LineString(c.flattened(FLAT)) for c in piece.outline])
    along = float(lines.project(at))
    on, ahead = (np.array(lines.interpolate(along + step).coords[0]) for step in (0.0, 0.2))
    direction = (ahead - on) / max(float(np.linalg.norm(ahead - on)), 1e-12)
    inward = np.array([-direction[1], direction[0]])
    if not piece.shape.contains(shapely.Point(on + 0.3 * inward)):
        inward = -inward
    end = on + size * inward
    tick = Contour.polyline([on, end], layer="MARK", name=label)
    return tick, Word(label, 0.8 * size, end, _read_along(direction), 0.7 * size * inward)


def _beside(side: OutlineSide, size: float) -> list[Word]:
    """The number inside the edge, at its middle, to be read along it."""
    points = side.points
    lengths = np.r_[0, np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))]
    if lengths[-1] < 2 * size:
        return []
    near = np.array([0.49, 0.5, 0.51]) * lengths[-1]
    a, middle, b = np.stack([np.interp(near, lengths, points[:, k]) for k in (0, 1)], axis=1)
    along = (b - a) / max(float(np.linalg.norm(b - a)), 1e-12)
    inward = np.array([-along[1], along[0]])
    return [Word(side.label, size, middle, _read_along(along), 0.9 * size * inward)]


def _read_along(along: Array) -> float:
    """The turn in radians of text along a direction (2,), never upside down."""
    turn = float(np.arctan2(along[1], along[0]))
    return turn + np.pi if abs(turn) > np.pi / 2 + 1e-9 else turn
