"""Contours as the toolkit's paths, and short parts of them that are stroked quickly."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from itertools import pairwise

import numpy as np
from PyQt6.QtCore import QByteArray, QDataStream, QPointF, Qt
from PyQt6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QPolygonF

from ...core.plane.contour import Contour, on_arc

EIGHTH = np.pi / 8
"""Half the turn of an eighth of a circle."""
ELEMENT = np.dtype([("kind", ">i4"), ("at", ">f8", 2)])
MOVE, LINE, CURVE, HANDLE = range(4)
"""What a path is made of, in the toolkit's numbers: ``HANDLE`` is the second handle and the end of a curve."""


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
    """Lines and arcs as a path in mm, y up; arcs as cubics, each within 5e-6 of the radius."""
    return paths_of([list(contours)])[0]


def paths_of(groups: Sequence[Sequence[Contour]]) -> list[QPainterPath]:
    """The path of each group of contours, as ``path_of`` has it.

    The toolkit's own arcs are off by some 1e-4 of the radius, ends and all, so those that are nearly straight run wild.
    """
    kept = [[contour for contour in group if len(contour.points) > (not contour.closed)] for group in groups]
    every = [contour for group in kept for contour in group]
    if not every:
        return [QPainterPath() for _ in groups]
    elements, ends = _elements(every)
    ends = np.concatenate([[0], ends])[np.cumsum([0, *map(len, kept)])]
    return [_read(elements[begin:end]) for begin, end in pairwise(ends)]


def _elements(contours: Sequence[Contour]) -> tuple[np.ndarray, np.ndarray]:
    """What their paths are made of, one contour after another, and where each of these ends."""
    spans = [contour.spans for contour in contours]
    starts, ends, bulges = (np.concatenate(each) for each in zip(*spans, strict=True))
    curved = bulges != 0
    owner, cubics = _cubics(starts[curved], ends[curved], bulges[curved])
    length = np.ones(len(bulges), int)
    length[curved] = 3 * np.bincount(owner, minlength=int(curved.sum()))
    first = np.concatenate([[0], np.cumsum([len(bulge) for *_, bulge in spans])])
    before = np.concatenate([[0], np.cumsum(length)])
    moves = before[first[:-1]] + np.arange(len(contours))
    found = np.zeros(before[-1] + len(contours), ELEMENT)
    drawn = np.ones(len(found), bool)
    drawn[moves] = False
    kinds, points = np.full(before[-1], LINE), np.empty((before[-1], 2))
    bent = np.repeat(curved, length)
    kinds[bent] = np.tile([CURVE, HANDLE, HANDLE], len(owner))
    points[bent], points[~bent] = cubics.reshape(-1, 2), ends[~curved]
    found["kind"][drawn], found["at"][drawn] = kinds, points
    found["kind"][moves], found["at"][moves] = MOVE, [contour.points[0] for contour in contours]
    return found, before[first[1:]] + np.arange(1, len(contours) + 1)


def _read(elements: np.ndarray) -> QPainterPath:
    """A path from its elements, as the toolkit's streams have it: to add them one by one takes ten times as long."""
    path = QPainterPath()
    if len(elements):
        written = len(elements).to_bytes(4, "big") + elements.tobytes() + bytes(8)  # where it began, and odd-even
        QDataStream(QByteArray(written)) >> path  # type: ignore[operator]
    return path


def _cubics(starts: np.ndarray, ends: np.ndarray, bulges: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Pieces of arcs, an eighth of a circle at the most: the arc of each, both its handles and its end (n, 3, 2)."""
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
    return owner, np.stack([first, second, high], axis=1)


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
