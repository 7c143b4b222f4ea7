"""The edges that the sentence of a broken row speaks of, with their numbers."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from ..theme import font, theme
from .bends import paint_number
from .layer import FormLayer, FormScene

if TYPE_CHECKING:
    from ..stages.scene import LineSets


class FailingEdges(FormLayer):
    order = 85

    def key(self, scene: FormScene) -> Any:
        return failing_edges(scene)

    def show(self, lines: LineSets, scene: FormScene) -> None:
        lines.of("failing", 3.6).show([scene.edges[number] for number in failing_edges(scene)], theme().broken)

    def paint(self, painter: QPainter, scene: FormScene) -> None:
        painter.setFont(font(11))
        for number in failing_edges(scene):
            points = scene.edges[number]
            steps = np.r_[0, np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))]
            middle = np.array([np.interp(steps[-1] / 2, steps, axis) for axis in points.T])
            x, y = scene.pixels(middle.reshape(1, 3))[0]
            painter.setPen(QPen(QColor(theme().broken), 1.2, Qt.PenStyle.SolidLine))
            paint_number(painter, str(number), np.array([x, y]))


def failing_edges(scene: FormScene) -> tuple[int, ...]:
    """The numbers of the edges in sight that the selected row breaks on."""
    row = scene.session.selected_row
    state = scene.session.states.get(row.id) if row is not None else None
    edges = state.edges if state is not None and state.status == "broken" else ()
    return tuple(number for number in edges if number in scene.edges)
