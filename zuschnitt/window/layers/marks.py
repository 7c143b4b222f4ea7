"""What is written on the pieces of a blank, and ticks where edges match."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import lru_cache

import numpy as np
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QTransform

from ...core.develop.word import Word, centred
from ..stages.paper_view import PaperView
from ..theme import theme
from .layer import BlankLayer, BlankScene
from .paths import KeptPath, path_of

LEAST = 11.0
"""Words are written no smaller than this on the stage: the height of their em square, in pixels."""
CELL = 4
"""Room on the stage is told by squares of so many pixels."""
DRAWN_AT = 100.0
"""Letters are kept as paths of this size."""


class MarksLayer(BlankLayer):
    order = 60
    of_blank = True

    def __init__(self) -> None:
        self._ticks = KeptPath()

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        if scene.blank.words:
            write(painter, scene.blank.words, scene.view)
        if scene.blank.ticks:
            ticks = self._ticks.of(scene.blank, scene.blank.ticks)
            painter.strokePath(scene.view.transform.map(ticks), QPen(QColor(theme().ink), 1.2))


def write(painter: QPainter, words: Sequence[Word], view: PaperView) -> None:
    """Words in ink; those written larger than they are cut stand clear of the lines below them."""
    halo = QPen(QColor(theme().blank_face), 3)
    halo.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    for path, as_cut in written(words, view):
        if not as_cut:
            painter.strokePath(path, halo)
        painter.fillPath(path, QColor(theme().ink))


def written(words: Sequence[Word], view: PaperView) -> Iterator[tuple[QPainterPath, bool]]:
    """Paths in pixels of the words in sight, as large as they can be read, and whether that is as they are cut.

    A word that has to be written larger than it is cut waits for a closer view where another stands in its place.
    """
    sizes = np.array([word.size for word in words])
    shown = np.maximum(sizes, LEAST / view.scale)
    middles = view.to_pixels(np.array([word.middle(size) for word, size in zip(words, shown.tolist(), strict=True)]))
    reach = shown * view.scale * [len(word.text) for word in words]
    outside = (np.abs(middles - np.array(view.size) / 2) - np.array(view.size) / 2).max(axis=1)
    room = _Room(view.size)
    for k in np.argsort(-sizes, kind="stable").tolist():
        as_cut = shown[k] == sizes[k]
        if outside[k] > reach[k] or not (as_cut or room.is_free(middles[k])):
            continue
        there = QTransform.fromTranslate(*middles[k].tolist())
        there.rotateRadians(-words[k].turn)
        large = shown[k] * view.scale / DRAWN_AT
        drawn = there.scale(large, -large).map(_letters(words[k].text))
        if room.take(drawn.boundingRect()) or as_cut:
            yield drawn, bool(as_cut)


@lru_cache(maxsize=4096)
def _letters(text: str) -> QPainterPath:
    """The letters of a word, y up, its middle at the origin."""
    return path_of(centred(text, DRAWN_AT))


class _Room:
    """Which squares of a stage of ``size`` in pixels are written on."""

    def __init__(self, size: Sequence[float]) -> None:
        self._taken = np.zeros((int(size[1] // CELL) + 2, int(size[0] // CELL) + 2), bool)

    def is_free(self, middle: np.ndarray) -> bool:
        """Whether nothing is written at a pixel (2,); outside the stage all is free."""
        column, row = (middle // CELL).astype(int).tolist()
        rows, columns = self._taken.shape
        return not (0 <= row < rows and 0 <= column < columns and self._taken[row, column])

    def take(self, area: QRectF) -> bool:
        """Takes an area if all of it is free."""
        left, top = (max(0, int(each // CELL)) for each in (area.left(), area.top()))
        right, below = (max(0, int(each // CELL) + 1) for each in (area.right(), area.bottom()))
        there = self._taken[top:below, left:right]
        if there.any():
            return False
        there[:] = True
        return True
