"""The brake plan: each bend line with its place in the order, and the steps with their tools."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from ..stages.stage import FOOT, HEAD
from ..theme import font, theme
from .bends import paint_number
from .layer import BlankLayer, BlankScene, Box
from .paths import polygon

LINE = 18
WIDTH = 250.0
LEFT = 16.0


class BrakePlanLayer(BlankLayer):
    """Of the selected row, if it plans bends; it has the whole stage."""

    order = 111

    def alone(self, scene: BlankScene) -> str:
        made = scene.given("brake_plan")
        return made.brief() if made is not None else ""

    def extent(self, scene: BlankScene) -> Box | None:
        made = scene.given("brake_plan")
        if made is None:
            return None
        x0, y0, x1, y1 = scene.blank.bounds
        # room for the steps above the flat
        room = (len(made.value.steps) + 2) * LINE
        high = max(scene.view.size[1] - HEAD - FOOT - room, 100)
        return x0, y0, x1, y0 + (y1 - y0) * (1 + room / high)

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        made = scene.given("brake_plan")
        if made is None:
            return
        now = theme()
        for wall in made.flat.walls:
            painter.setBrush(QColor(now.blank_face))
            painter.setPen(QPen(QColor(now.blank), 1.2))
            painter.drawPolygon(polygon(scene.view.to_pixels(np.array(wall.exterior.coords))))
            for hole in wall.interiors:
                painter.setBrush(QColor(now.blank_paper))
                painter.drawPolygon(polygon(scene.view.to_pixels(np.array(hole.coords))))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setFont(font(11))
        place = {step.bend: k for k, step in enumerate(made.value.steps, 1)}
        for bend in made.flat.bends:
            step = made.value.steps[place[bend.number] - 1]
            a, b = scene.view.to_pixels(bend.line)
            style = Qt.PenStyle.SolidLine if bend.up else Qt.PenStyle.DashLine
            painter.setPen(QPen(QColor(now.broken if step.collides else now.form), 2.0, style))
            painter.drawLine(QPointF(*a), QPointF(*b))
            paint_number(painter, str(place[bend.number]), (a + b) / 2)
        self._steps(painter, made)

    @staticmethod
    def _steps(painter: QPainter, made: Any) -> None:
        now = theme()
        up = {bend.number: bend.up for bend in made.flat.bends}
        lines = [("step", "bend", "angle", "tool")]
        for k, step in enumerate(made.value.steps, 1):
            way = "up" if up.get(step.bend, True) else "down"
            lines.append(
                (str(k), str(step.bend), f"{step.angle:g}° {way}", step.reason if step.collides else step.tool)
            )
        for k, line in enumerate(lines):
            y = HEAD + 8.0 + k * LINE
            bad = k > 0 and made.value.steps[k - 1].collides
            painter.setPen(QColor(now.quiet if k == 0 else now.broken if bad else now.ink))
            for x, text in zip((LEFT, LEFT + 44, LEFT + 88, LEFT + 176), line, strict=True):
                painter.drawText(QRectF(x, y, WIDTH, LINE), Qt.AlignmentFlag.AlignVCenter, text)
        painter.setPen(QPen(QColor(now.rule), 1))
        painter.drawLine(QPointF(LEFT, HEAD + 8.0 + LINE), QPointF(LEFT + 320, HEAD + 8.0 + LINE))
