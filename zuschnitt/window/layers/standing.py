"""Bodies that stand on the blank: what they cover of it."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen

from ..theme import theme
from .handles import box_of, footprints
from .layer import BlankLayer, BlankScene, Box
from .paths import polygon

SHADE = 46
"""How dark what they cover is shaded, of 255."""


class StandingLayer(BlankLayer):
    order = 78

    def extent(self, scene: BlankScene) -> Box | None:
        rings = [ring for row in scene.session.on_blank("form") for ring, _ in footprints(scene.session, row)]
        return box_of([*rings, np.array(scene.blank.bounds).reshape(2, 2)]) if rings else None

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        now, session = theme(), scene.session
        for row in session.on_blank("form"):
            motion = session.motions.get(row.id)
            path = QPainterPath()
            path.setFillRule(Qt.FillRule.OddEvenFill)
            for ring, away in footprints(session, row):
                at = ring if motion is None else motion.apply(ring - away) + away
                path.addPolygon(polygon(scene.view.to_pixels(at)))
                path.closeSubpath()
            shade = QColor(now.form)
            shade.setAlpha(SHADE)
            painter.fillPath(path, shade)
            painter.strokePath(path, QPen(QColor(now.form), 1.4 if row.id == session.selected else 1.0))
