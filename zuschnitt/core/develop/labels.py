"""What is written on the pieces so that they can be put together: letters, and edge numbers in pairs."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely

from ..correspondence import Correspondence
from ..form.form import Form
from ..geometry.curves import Array
from ..plane.contour import Contour
from ..plane.lettering import lettering
from ..plane.region import Region
from .blank import Blank, OutlineSide

LARGEST = 6.0
"""Height of the em square of what is written, in mm, at the most."""


def labels(
    outline: Sequence[Contour], sides: Sequence[OutlineSide], correspondence: Correspondence
) -> tuple[Contour, ...]:
    """Contours on layer TEXT: a letter on each piece where there are several, a number along each edge to join.

    The letters follow the numbers of the faces.
    """
    shapes = pieces(outline)
    size = min(LARGEST, 0.12 * float(np.sqrt(min((shape.area for shape in shapes), default=0.0))))
    if size <= 0.5:
        return ()
    made: list[Contour] = []
    if len(shapes) > 1:
        for number, shape in enumerate(sorted(shapes, key=lambda shape: _first_face(shape, correspondence))):
            middle = shapely.maximum_inscribed_circle(shape, tolerance=1.0).coords[0]
            made.extend(_written(letter(number), np.array(middle), np.array([1.0, 0.0]), 2 * size))
    pairs = Counter(side.label for side in sides if side.label)
    for side in sides:
        if pairs[side.label] == 2:
            made.extend(_beside(side, size))
    return tuple(made)


def matching_marks(form: Form, blank: Blank) -> tuple[Contour, ...]:
    """Short ticks across the outline, with their names, where blanks are to meet when they are put together."""
    outline = [c.flattened(0.1) for c in blank.outline]
    lines = shapely.union_all([shapely.LineString(points) for points in outline])
    size = min(LARGEST, 0.1 * float(np.sqrt(blank.figures.area_blank / max(len(outline), 1))))
    made: list[Contour] = []
    for match in form.matches:
        for face in match.faces:
            if face not in blank.faces:
                continue
            at = blank.correspondence.to_blank(match.point[None], [face]).points[0]
            along = float(lines.project(shapely.Point(at)))
            on, ahead = (np.array(lines.interpolate(along + step).coords[0]) for step in (0.0, 0.2))
            direction = (ahead - on) / max(float(np.linalg.norm(ahead - on)), 1e-12)
            inward = np.array([-direction[1], direction[0]])
            if not blank.region.contains((on + 0.3 * inward)[None])[0]:
                inward = -inward
            made.append(Contour.polyline([on, on + size * inward], layer="MARK", name=match.label))
            made.extend(_written(match.label, on + 1.7 * size * inward, direction, 0.8 * size))
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


def _first_face(shape: shapely.Polygon, correspondence: Correspondence) -> int:
    """The lowest number of a face on a piece."""
    mine = []
    for leaf in correspondence.leaves:
        inside = leaf.chart_to_blank(np.array(leaf.region.shape.representative_point().coords))
        if shape.contains(shapely.Point(inside[0])):
            mine.append(leaf.face)
    return min(mine, default=1 << 30)


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
