"""Contours as the toolkit's paths, and short parts of them that are stroked quickly."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainter, QPainterPath, QPen, QPolygonF

from ...core.contour import Contour

EIGHTH = float(np.tan(np.pi / 16))
"""The bulge of an eighth of a circle."""


class KeptPath:
    """The path of contours in mm, kept as long as what they belong to stays the same."""

    def __init__(self) -> None:
        self._kept: tuple[object, QPainterPath] | None = None

    def of(self, owner: object, contours: Iterable[Contour]) -> QPainterPath:
        if self._kept is None or self._kept[0] is not owner:
            path = QPainterPath()
            for contour in contours:
                add_contour(path, contour)
            self._kept = (owner, path)
        return self._kept[1]


def add_contour(path: QPainterPath, contour: Contour) -> None:
    """Adds lines and arcs to a path in mm, y up."""
    path.moveTo(*contour.points[0])
    for start, end, bulge in zip(*contour.spans, strict=True):
        if bulge == 0:
            path.lineTo(*end)
        else:
            _add_arc(path, start, end, bulge)
    if contour.closed:
        path.closeSubpath()


def _add_arc(path: QPainterPath, start: np.ndarray, end: np.ndarray, bulge: float) -> None:
    """Adds an arc as cubics of an eighth of a circle at the most, each within 5e-6 of the radius.

    The toolkit's own arcs are off by some 1e-4 of the radius, ends and all, so those that are nearly straight run wild.
    """
    if abs(bulge) > EIGHTH:
        chord = end - start
        middle = (start + end) / 2 + bulge / 2 * np.array([chord[1], -chord[0]])
        half = np.tan(np.arctan(bulge) / 2)
        _add_arc(path, start, middle, half)
        _add_arc(path, middle, end, half)
        return
    turn = 2 * np.arctan(bulge)
    cosine, sine = np.cos(turn), np.sin(turn)
    x, y = (end - start) * (1 + bulge**2) / 3
    first = start + np.array([x * cosine + y * sine, y * cosine - x * sine])
    second = end - np.array([x * cosine - y * sine, y * cosine + x * sine])
    path.cubicTo(*first, *second, *end)


def short_parts(contour: Contour, most: int) -> list[Contour]:
    """The contour itself, or open parts of it of at most so many points, each from the end of the one before."""
    if len(contour.points) <= most:
        return [contour]
    starts, ends, bulges = contour.spans
    return [
        Contour(np.vstack([starts[i : i + most], ends[i : i + most][-1:]]), np.r_[bulges[i : i + most], 0.0], False)
        for i in range(0, len(starts), most)
    ]


def polygon(pixels: np.ndarray) -> QPolygonF:
    """Pixels (n, 2) as the toolkit has them."""
    return QPolygonF([QPointF(x, y) for x, y in pixels.tolist()])


def stroke(painter: QPainter, paths: Iterable[QPainterPath], pen: QPen) -> None:
    for path in paths:
        painter.strokePath(path, pen)
