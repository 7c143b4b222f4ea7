"""The lines of drawing paper, every so many round mm."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QPainter, QPen

from ..stages.stage import HEAD
from ..theme import theme
from .layer import BlankLayer, BlankScene

STEPS = (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 10_000, 100_000)
APART = 16
"""No two lines are nearer than this, in pixels."""


class PaperLayer(BlankLayer):
    order = 0

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        view = scene.view
        step = next((s for s in STEPS if s * view.scale >= APART), STEPS[-1])
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.setPen(QPen(QColor(theme().grid), 1))
        low, high = view.to_blank(QPointF(0, view.size[1])), view.to_blank(QPointF(view.size[0], 0))
        for x in np.arange(np.ceil(low[0] / step) * step, high[0], step)[:400]:
            px = int((x - view.centre[0]) * view.scale + view.size[0] / 2)
            painter.drawLine(px, HEAD, px, view.size[1])
        for y in np.arange(np.ceil(low[1] / step) * step, high[1], step)[:400]:
            py = int(view.size[1] / 2 - (y - view.centre[1]) * view.scale)
            painter.drawLine(0, py, view.size[0], py)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
