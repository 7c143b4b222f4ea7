"""The brake plan: each bend line with its place in the order, the steps with their tools, and the part at the press."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from ..stages.stage import FOOT, HEAD
from ..theme import font, theme
from .bends import paint_number
from .layer import BlankLayer, BlankScene, Box
from .paths import polygon

if TYPE_CHECKING:
    from ..at_the_press import AtThePress, Moment

LINE = 18
LEFT = 16.0
COLUMNS = (LEFT, LEFT + 38, LEFT + 76, LEFT + 150, LEFT + 206)


class BrakePlanLayer(BlankLayer):
    """Of the selected row, if it plans bends; it has the whole stage."""

    order = 111

    def __init__(self) -> None:
        self._press: tuple[object, AtThePress] | None = None

    def alone(self, scene: BlankScene) -> str:
        made = scene.given("brake_plan")
        return scene.session.words(made.brief()) if made is not None else ""

    def key(self, scene: BlankScene) -> Any:
        return scene.session.together if scene.given("brake_plan") is not None else None

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
        from ..at_the_press import AtThePress, Moment

        share = scene.session.together
        self._steps(painter, scene, made, None if share >= 1 else Moment.of(made.value, share))
        if share < 1:
            top = HEAD + 8.0 + (len(made.value.steps) + 2) * LINE
            width, height = scene.view.size
            area = QRectF(LEFT, top, width - 2 * LEFT, max(60.0, height - top - FOOT - 10))
            if self._press is None or self._press[0] is not made.value:
                self._press = made.value, AtThePress(made.value, made.flat)
            self._press[1].paint(painter, area, Moment.of(made.value, share))
            return
        self._flat(painter, scene, made)

    @staticmethod
    def _flat(painter: QPainter, scene: BlankScene, made: Any) -> None:
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

    @staticmethod
    def _steps(painter: QPainter, scene: BlankScene, made: Any, moment: Moment | None) -> None:
        """The table of steps; the one that is being made is marked."""
        now = theme()
        painter.setFont(font(11))
        up = {bend.number: bend.up for bend in made.flat.bends}
        lines = [("step", "bend", "angle", "stops at", "tool")]
        for k, step in enumerate(made.value.steps, 1):
            way = "up" if up.get(step.bend, True) else "down"
            stops = "by eye" if step.gauge is None else f"{step.gauge:.1f}"
            tool = step.reason if step.collides else step.tool
            lines.append((str(k), str(step.bend), f"{step.angle:g}° {way}", "" if step.collides else stops, tool))
        right = scene.view.size[0] - LEFT
        for k, line in enumerate(lines):
            y = HEAD + 8.0 + k * LINE
            bad = k > 0 and made.value.steps[k - 1].collides
            painter.setPen(QColor(now.quiet if k == 0 else now.broken if bad else now.ink))
            if moment is not None and k == moment.number + 1:
                painter.fillRect(QRectF(LEFT - 6, y, right - LEFT + 12, LINE), QColor(now.blank_tint))
            for x, end, text in zip(COLUMNS, (*COLUMNS[1:], right), line, strict=True):
                words = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(end - x - 4))
                painter.drawText(QRectF(x, y, end - x, LINE), Qt.AlignmentFlag.AlignVCenter, words)
        painter.setPen(QPen(QColor(now.rule), 1))
        painter.drawLine(QPointF(LEFT, HEAD + 8.0 + LINE), QPointF(right, HEAD + 8.0 + LINE))
