"""Contours as the toolkit's paths, and short parts of them that are stroked quickly."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter, QPainterPath, QPen, QPolygonF

from ...core.contour import Contour, arc_centre

FLAT = 1e-5
"""An arc that rises less than about this over its chord, in mm, is drawn as a line: its circle is too large."""


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
        if abs(bulge) * np.hypot(*(end - start)) < FLAT:
            path.lineTo(*end)
        else:
            centre, radius, angle, sweep = arc_centre(start, end, bulge)
            # Qt's angles run the other way in a plane whose y is up
            box = QRectF(centre[0] - radius, centre[1] - radius, 2 * radius, 2 * radius)
            path.arcTo(box, -np.degrees(angle), -np.degrees(sweep))
    if contour.closed:
        path.closeSubpath()


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
