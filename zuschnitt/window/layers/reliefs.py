"""Reliefs: on the form where they are cut, on a blank that does not open at them where they would be."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from ..theme import font, theme
from .layer import BlankLayer, BlankScene, FormLayer, FormScene
from .paths import polygon

if TYPE_CHECKING:
    from ..session import Session
    from ..stages.scene import LineSets


class BlankReliefs(BlankLayer):
    order = 50

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        now = theme()
        painter.setFont(font(11, bold=True))
        for number, points in proposed(scene):
            pixels = scene.view.to_pixels(points)
            painter.setPen(QPen(QColor(now.form), 1.6, Qt.PenStyle.DashLine))
            painter.drawPolyline(polygon(pixels))
            x, y = pixels[-1]
            painter.setPen(QColor(now.form))
            painter.drawText(QPointF(x + 4, y - 4), str(number))


class FormReliefs(FormLayer):
    order = 60

    def show(self, lines: LineSets, scene: FormScene) -> None:
        lines.of("reliefs", 2.2).show([points for _, points in shown_reliefs(scene.session)], theme().blank)

    def paint(self, painter: QPainter, scene: FormScene) -> None:
        """Handles at the ends of those that can be moved."""
        painter.setPen(QPen(QColor(theme().blank), 1.4))
        painter.setBrush(QColor(theme().form_paper))
        for points in relief_ends(scene.session):
            for x, y in scene.pixels(points):
                painter.drawEllipse(QPointF(x, y), 4.5, 4.5)


def shown_reliefs(session: Session) -> list[tuple[int, np.ndarray]]:
    """The reliefs (n, 3) of the selected row, or those that the shown blank opens at, with their numbers."""
    row = session.selected_row
    if row is None or "reliefs" not in row.gives:
        blank = session.nearby("blank")
        row = next((r for r in session.job.sources(blank) if "reliefs" in r.gives), None) if blank else None
    reliefs = () if session.hides(row) else session.value(row, "reliefs") or ()
    return [(number, relief.points) for number, relief in enumerate(reliefs, 1)]


def relief_ends(session: Session) -> list[np.ndarray]:
    """Both ends (2, 3) of each relief that the selected row gives; none where it gives no reliefs."""
    return [relief.points[[0, -1]] for relief in session.drawn("reliefs") or ()]


def proposed(scene: BlankScene) -> list[tuple[int, np.ndarray]]:
    """Reliefs of the selected row on a blank that does not open at them, with their numbers."""
    row = scene.session.selected_row
    if row is None or "reliefs" not in row.gives:
        return []
    found = []
    for number, points in shown_reliefs(scene.session):
        carried = scene.blank.correspondence.to_blank(points)
        found.append((number, carried.points[carried.inside] if carried.inside.any() else carried.points))
    return found
