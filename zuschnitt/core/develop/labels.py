"""What is written on the pieces so that they can be put together: letters, and edge numbers in pairs."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely

from ..contour import Contour
from ..files.lettering import lettering
from ..form.curves import Array
from ..region import Region
from .blank import OutlineSide

LARGEST = 6.0
"""Height of the em square of what is written, in mm, at the most."""


def labels(outline: Sequence[Contour], sides: Sequence[OutlineSide]) -> tuple[Contour, ...]:
    """Contours on layer TEXT: a letter on each piece where there are several, a number along each edge to join."""
    shapes = pieces(outline)
    size = min(LARGEST, 0.12 * float(np.sqrt(min((shape.area for shape in shapes), default=0.0))))
    if size <= 0.5:
        return ()
    made: list[Contour] = []
    if len(shapes) > 1:
        for number, shape in enumerate(shapes):
            middle = shapely.maximum_inscribed_circle(shape, tolerance=1.0).coords[0]
            made.extend(_written(letter(number), np.array(middle), np.array([1.0, 0.0]), 2 * size))
    pairs = Counter(side.label for side in sides if side.label)
    for side in sides:
        if pairs[side.label] == 2:
            made.extend(_beside(side, size))
    return tuple(made)


def letter(number: int) -> str:
    """A, B, …, Z, AA, AB, …"""
    text = ""
    number += 1
    while number:
        number, rest = divmod(number - 1, 26)
        text = chr(65 + rest) + text
    return text


def pieces(outline: Sequence[Contour]) -> list[shapely.Polygon]:
    """The pieces of a blank, from left to right."""
    shape = Region(tuple(c.flattened(0.1)[:-1] for c in outline)).shape
    parts = [g for g in getattr(shape, "geoms", [shape]) if isinstance(g, shapely.Polygon)]
    return sorted(parts, key=lambda part: part.bounds[0])


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
