"""The pages of paper that a blank is printed on, as frames over its drawing."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from ...core.shop.printed import Pages
from ..theme import font, theme
from .layer import BlankLayer, BlankScene, Box


class PagesLayer(BlankLayer):
    """Those of the selected row, if it prints. Where two pages overlap, both edges are seen."""

    order = 90

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        pages = printed(scene)
        if pages is None:
            return
        now = theme()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setFont(font(12, bold=True))
        lap = pages.overlap / pages.scale * scene.view.scale
        for page in pages.pages:
            (left, bottom), (right, top) = scene.view.to_pixels(np.array([page.low, page.high]))
            painter.setPen(QPen(QColor(now.quiet), 1.0, Qt.PenStyle.DashLine))
            painter.drawRect(QRectF(left, top, right - left, bottom - top))
            painter.setPen(QColor(now.blank))
            painter.drawText(QPointF(left + lap + 8, top + 18), page.name)

    def extent(self, scene: BlankScene) -> Box | None:
        pages = printed(scene)
        if pages is None:
            return None
        low = np.min([page.low for page in pages.pages], axis=0)
        high = np.max([page.high for page in pages.pages], axis=0)
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])


def printed(scene: BlankScene) -> Pages | None:
    """The pages of the selected row."""
    return scene.session.drawn("pages")
