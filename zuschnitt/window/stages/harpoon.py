"""The harpoon: a half-barbed arrow along x, its barb on the y side; filled where one looks at the outer side."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

SHAPE = np.array([[0, 0], [1, 0], [0.66, 0.2], [0.72, 0.0]])
"""Origin, tip, end of the barb, and where the barb comes back to the shaft; x and y in its own length."""


def paint_harpoon(
    painter: QPainter, origin: NDArray, x_axis: NDArray, y_axis: NDArray, colour: str, paper: str, outer: bool
) -> None:
    """``origin``, ``x_axis`` and ``y_axis`` (2,) in pixels; the axes carry its length."""
    at = [QPointF(*(origin + a * x_axis + b * y_axis)) for a, b in SHAPE]
    pen = QPen(QColor(colour), 2.2)
    painter.setPen(pen)
    painter.drawLine(at[0], at[1])
    painter.setPen(QPen(QColor(colour), 1.4))
    painter.setBrush(QColor(colour if outer else paper))
    painter.drawPolygon(QPolygonF([at[1], at[2], at[3]]))
    painter.setBrush(QColor(colour))
    painter.drawEllipse(at[0], 3.4, 3.4)


def paint_cross(painter: QPainter, at: QPointF, colour: str, text: str = "", paper: str = "") -> None:
    """The twin cursor, with a word beside it."""
    painter.setPen(QPen(QColor(colour), 1.2))
    painter.drawLine(QPointF(at.x() - 9, at.y()), QPointF(at.x() + 9, at.y()))
    painter.drawLine(QPointF(at.x(), at.y() - 9), QPointF(at.x(), at.y() + 9))
    if text:
        width = painter.fontMetrics().horizontalAdvance(text)
        height = painter.fontMetrics().height()
        box = QPointF(at.x() + 12, at.y() + 8)
        veil = QColor(paper)
        veil.setAlpha(215)
        painter.fillRect(int(box.x()) - 3, int(box.y()) - 1, width + 6, height + 2, veil)
        painter.drawText(QPointF(box.x(), box.y() + painter.fontMetrics().ascent()), text)
