"""Two things held against each other: hairs from one to the other by their length, and a ring at the worst place."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from ..theme import theme
from .layer import FormLayer, FormScene

if TYPE_CHECKING:
    from ..stages.scene import LineSets

PARTS = (("held near", 0.0, 1 / 3), ("held off", 1 / 3, 2 / 3), ("held far", 2 / 3, 2.0))
"""Hairs are told apart by what part of the largest distance they are."""
RADIUS = 9.0


class HeldLayer(FormLayer):
    """Of the selected row."""

    order = 98

    def show(self, lines: LineSets, scene: FormScene) -> None:
        held = scene.session.drawn("held")
        hairs = held.hairs if held is not None else np.zeros((0, 2, 3))
        share = np.linalg.norm(hairs[:, 1] - hairs[:, 0], axis=1) / max(
            held.largest if held is not None else 0.0, 1e-12
        )
        now = theme()
        for (name, low, high), colour in zip(PARTS, (now.form, now.blank, now.outside), strict=True):
            lines.of(name, 1.2).segments(hairs[(share >= low) & (share < high)], colour)

    def paint(self, painter: QPainter, scene: FormScene) -> None:
        """A ring at the worst place."""
        held = scene.session.drawn("held")
        if held is None or not held.largest > 0:
            return
        x, y = scene.pixels(held.worst[None])[0]
        painter.setPen(QPen(QColor(theme().outside), 2.0))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(QPointF(x, y), RADIUS, RADIUS)
