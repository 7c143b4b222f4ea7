"""Contours as the toolkit's paths, and short parts of them that are stroked quickly."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QPolygonF

from ...core.plane.contour import Contour, on_arc

EIGHTH = np.pi / 8
"""Half the turn of an eighth of a circle."""


class KeptPath:
    """The path of contours in mm, kept as long as what they belong to stays the same."""

    def __init__(self) -> None:
        self._kept: tuple[object, QPainterPath] | None = None

    def of(self, owner: object, contours: Iterable[Contour]) -> QPainterPath:
        if self._kept is None or self._kept[0] is not owner:
            self._kept = (owner, path_of(contours))
        return self._kept[1]


def hatch(painter: QPainter, path: QPainterPath, colour: QColor) -> None:
    """Hatches what lies within a path in pixels."""
    painter.fillPath(path, QBrush(colour, Qt.BrushStyle.BDiagPattern))


def path_of(contours: Iterable[Contour]) -> QPainterPath:
    """Lines and arcs as a path in mm, y up; arcs as cubics, each within 5e-6 of the radius.

    The toolkit's own arcs are off by some 1e-4 of the radius, ends and all, so those that are nearly straight run wild.
    """
    path = QPainterPath()
    every = [contour for contour in contours if len(contour.points)]
    if not every:
        return path
    starts, ends, bulges = (np.concatenate(each) for each in zip(*(c.spans for c in every), strict=True))
    curved = np.nonzero(bulges)[0]
    arcs = iter(_cubics(starts[curved], ends[curved], bulges[curved]))
    steps = zip(ends.tolist(), (bulges == 0).tolist(), strict=True)
    for contour in every:
        path.moveTo(*contour.points[0].tolist())
        for _ in range(len(contour.points) - (not contour.closed)):
            (x, y), straight = next(steps)
            if straight:
                path.lineTo(x, y)
            else:
                for handles in next(arcs):
                    path.cubicTo(*handles)
        if contour.closed:
            path.closeSubpath()
    return path


def _cubics(starts: np.ndarray, ends: np.ndarray, bulges: np.ndarray) -> list[list[list[float]]]:
    """For each arc its pieces, an eighth of a circle at the most: both handles and the end (6)."""
    half = 2 * np.arctan(bulges)
    count = np.maximum(np.ceil(np.abs(half) / EIGHTH - 1e-9).astype(int), 1)
    owner = np.repeat(np.arange(len(count)), count)
    rank = np.arange(len(owner)) - np.repeat(np.cumsum(count) - count, count)
    step, bulge = half[owner] / count[owner], bulges[owner]
    low, high = (on_arc(starts[owner], ends[owner], bulge, k * step) for k in (rank, rank + 1))
    last = rank == count[owner] - 1
    high[last] = ends[owner[last]]
    x, y = ((high - low) * (1 + np.tan(step / 2) ** 2)[:, None] / 3).T
    cosine, sine = np.cos(step), np.sin(step)
    first = low + np.column_stack([x * cosine + y * sine, y * cosine - x * sine])
    second = high - np.column_stack([x * cosine - y * sine, y * cosine + x * sine])
    rows = np.hstack([first, second, high]).tolist()
    begins = np.cumsum(count) - count
    return [rows[begin : begin + n] for begin, n in zip(begins.tolist(), count.tolist(), strict=True)]


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
