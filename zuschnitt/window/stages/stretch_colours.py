"""The purple to orange scale of stretch, with numbers on it."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QPainter

from ...core.develop.stretch_scale import colours
from ..theme import font, theme

MAPS = (("stretch", "stretch"), ("compression", "compression"))
"""The two maps of a stage, and what stands on it: the larger principal stretch, and the smaller."""


def paint_legend(painter: QPainter, area: QRectF, limit: float) -> None:
    """The scale as a bar with five numbers in percent below it."""
    now = theme()
    shades = colours(np.linspace(-limit, limit, int(area.width())), limit)
    for x, (r, g, b) in enumerate(shades):
        painter.fillRect(QRectF(area.left() + x, area.top(), 1.6, 9), QColor(int(r), int(g), int(b)))
    painter.setPen(QColor(now.rule))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(QRectF(area.left(), area.top(), area.width(), 9))
    painter.setFont(font(11))
    painter.setPen(QColor(now.quiet))
    for value in (-limit, -limit / 2, 0.0, limit / 2, limit):
        middle = area.left() + (value / limit + 1) / 2 * area.width()
        text = "0" if value == 0 else f"{value:+.3g} %"
        painter.drawText(QRectF(middle - 32, area.top() + 11, 64, 16), Qt.AlignmentFlag.AlignCenter, text)
