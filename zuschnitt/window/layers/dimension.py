"""The overall width below the blank and the height beside it, with their figures."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from ..stages.stage import FOOT
from ..theme import font, theme
from .layer import BlankLayer, BlankScene


class DimensionLayer(BlankLayer):
    order = 100
    of_blank = True

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        if scene.session.figures:
            return  # those of the picked figure stand in its place
        now, view = theme(), scene.view
        x0, y0, x1, y1 = scene.blank.bounds
        (left, bottom), (right, top) = view.to_pixels(np.array([[x0, y0], [x1, y1]]))
        painter.setFont(font(11))
        line = min(bottom + 26, view.size[1] - FOOT - 12.0)
        painter.setPen(QPen(QColor(now.quiet), 1))
        painter.drawLine(QPointF(left, line), QPointF(right, line))
        for x in (left, right):
            painter.drawLine(QPointF(x - 4, line + 4), QPointF(x + 4, line - 4))
        _figure(painter, scene.session.length(x1 - x0), (left + right) / 2, line)
        beside = left - 18
        if beside > 8:
            painter.setPen(QPen(QColor(now.quiet), 1))
            painter.drawLine(QPointF(beside, bottom), QPointF(beside, top))
            for y in (bottom, top):
                painter.drawLine(QPointF(beside - 4, y + 4), QPointF(beside + 4, y - 4))
            painter.save()
            painter.translate(beside, (bottom + top) / 2)
            painter.rotate(-90)
            _figure(painter, scene.session.length(y1 - y0), 0, 0)
            painter.restore()


def _figure(painter: QPainter, text: str, x: float, y: float) -> None:
    width = painter.fontMetrics().horizontalAdvance(text) + 12
    painter.fillRect(QRectF(x - width / 2, y - 8, width, 16), QColor(theme().blank_paper))
    painter.setPen(QColor(theme().ink))
    painter.drawText(QRectF(x - width / 2, y - 9, width, 18), Qt.AlignmentFlag.AlignCenter, text)
