"""What is written on the pieces of a blank: letters, numbers, ticks where edges match."""

from __future__ import annotations

from PyQt6.QtGui import QColor, QPainter, QPen

from ..theme import theme
from .layer import BlankLayer, BlankScene
from .paths import KeptPath


class MarksLayer(BlankLayer):
    order = 60
    of_blank = True

    def __init__(self) -> None:
        self._written, self._ticks = KeptPath(), KeptPath()

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        blank, transform = scene.blank, scene.view.transform
        if blank.marks:
            written = self._written.of(blank, [mark for mark in blank.marks if mark.closed])
            painter.fillPath(transform.map(written), QColor(theme().ink))
            ticks = self._ticks.of(blank, [mark for mark in blank.marks if not mark.closed])
            painter.strokePath(transform.map(ticks), QPen(QColor(theme().ink), 1.2))
