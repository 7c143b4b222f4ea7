"""Bend lines, and where faces run on smoothly, on the blank."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from ..theme import theme
from .layer import BlankLayer, BlankScene
from .paths import polygon

STYLES = {
    "REFERENCE": Qt.PenStyle.DashDotLine,
    "BEND_UP": Qt.PenStyle.DashLine,
    "BEND_DOWN": Qt.PenStyle.DashDotDotLine,
}
"""Smooth joins, valleys and mountains: told apart by their dashes, as seen from the outer side."""
LEGEND = {"REFERENCE": "SMOOTH – · –", "BEND_UP": "BEND UP – –", "BEND_DOWN": "DOWN – · ·"}


class FoldsLayer(BlankLayer):
    order = 30
    of_blank = True

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        now = theme()
        for fold in scene.blank.folds:
            style = STYLES.get(fold.layer, Qt.PenStyle.DashLine)
            colour = now.quiet if fold.layer == "REFERENCE" else now.form
            painter.setPen(QPen(QColor(colour), 1.2, style))
            painter.drawPolyline(polygon(scene.view.to_pixels(fold.flattened(0.05))))

    def legend(self, scene: BlankScene) -> str:
        there = {fold.layer for fold in scene.blank.folds}
        return "   ".join(words for layer, words in LEGEND.items() if layer in there)
