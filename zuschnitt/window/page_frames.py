"""The pages of paper that a blank is printed on, as frames over its drawing."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from ..core.shop.printed import Pages
from .paper_view import PaperView
from .theme import font, theme


def paint_pages(painter: QPainter, view: PaperView, pages: Pages) -> None:
    """Each page's field with its name; where two overlap, both edges are seen."""
    now = theme()
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setFont(font(12, bold=True))
    lap = pages.overlap / pages.scale * view.scale
    for page in pages.pages:
        (left, bottom), (right, top) = view.to_pixels(np.array([page.low, page.high]))
        place = QRectF(left, top, right - left, bottom - top)
        painter.setPen(QPen(QColor(now.quiet), 1.0, Qt.PenStyle.DashLine))
        painter.drawRect(place)
        painter.setPen(QColor(now.blank))
        painter.drawText(QPointF(left + lap + 8, top + 18), page.name)
