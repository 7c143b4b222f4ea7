"""Parts laid on sheets: all sheets one beside the other, with the yield of each."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen

from ...core.plane.contour import Contour
from ..theme import font, theme
from .layer import BlankLayer, BlankScene, Box
from .paths import path_of

LEAST = 26
"""A part narrower than this on the stage, in pixels, bears no name."""


ROOM = 70
"""A name that is too long for its part is shortened, but only where there is so much room, in pixels."""


class NestLayer(BlankLayer):
    """Of the selected row, if it nests; it has the whole stage."""

    order = 110

    def __init__(self) -> None:
        self._kept: tuple[object, QPainterPath, QPainterPath, QPainterPath] | None = None
        self._wrong: list[QPainterPath] = []

    def alone(self, scene: BlankScene) -> str:
        made = scene.given("nest")
        return scene.session.words(made.brief()) if made is not None else ""

    def extent(self, scene: BlankScene) -> Box | None:
        made = scene.given("nest")
        if made is None:
            return None
        places = made.places()
        right = max(at[0] + sheet.size[0] for sheet, at in places)
        return 0.0, min(at[1] for _, at in places), right, max(at[1] + sheet.size[1] for sheet, at in places)

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        made = scene.given("nest")
        if made is None:
            return
        now = theme()
        sheets, parts, marks = self._paths(made)
        to_pixels = scene.view.transform
        painter.fillPath(to_pixels.map(sheets), QColor(now.blank_face))
        painter.strokePath(to_pixels.map(sheets), QPen(QColor(now.quiet), 1.2))
        painter.fillPath(to_pixels.map(parts), QColor(now.blank_tint))
        painter.strokePath(to_pixels.map(parts), QPen(QColor(now.blank), 1.2))
        for wrong in self._wrong:
            painter.fillPath(to_pixels.map(wrong), QColor(now.failing))
            painter.strokePath(to_pixels.map(wrong), QPen(QColor(now.broken), 1.6))
        painter.strokePath(to_pixels.map(marks), QPen(QColor(now.blank), 0.8))
        painter.setFont(font(11))
        widest = max(sheet.size[0] for sheet in made.value.sheets)
        for number, (sheet, at) in enumerate(made.places(), 1):
            self._about(painter, scene, number, sheet, at, made.value.how.margin, widest)
            for placed in sheet.parts:
                self._name(painter, scene, placed, at)

    def _paths(self, made: Any) -> tuple[QPainterPath, QPainterPath, QPainterPath]:
        if self._kept is None or self._kept[0] is not made.value:
            sheets = QPainterPath()
            parts: list[Contour] = []
            marks: list[Contour] = []
            self._wrong = []
            bad = {(k, i) for k, each in made.value.wrong for i in each}
            for k, (sheet, at) in enumerate(made.places()):
                sheets.addRect(QRectF(*at, *sheet.size))
                for i, placed in enumerate(sheet.parts):
                    for contour in placed.contours:
                        cut = contour.closed and contour.layer in ("CUT", "CUT_OPEN", "RELIEF")
                        (parts if cut else marks).append(contour.moved(at=at))
                    if (k, i) in bad:
                        self._wrong.append(path_of(c.moved(at=at) for c in placed.contours if c.closed))
            self._kept = made.value, sheets, path_of(parts), path_of(marks)
        return self._kept[1:]

    @staticmethod
    def _about(
        painter: QPainter, scene: BlankScene, number: int, sheet: Any, at: Any, margin: float, widest: float
    ) -> None:
        now = theme()
        (x, y), (right, _) = scene.view.to_pixels(np.array([at, (at[0] + widest, at[1])]))
        wide, high = sheet.offcut(margin)
        words = f"sheet {number} · {sheet.size[0]:g} × {sheet.size[1]:g} · {sheet.share:.1f} %"
        more = f" · offcut {wide:.0f} × {high:.0f}" if wide > 1 else ""
        painter.setPen(QColor(now.ink))
        room = max(60.0, right - x)
        text = painter.fontMetrics().elidedText(words + more, Qt.TextElideMode.ElideRight, int(room))
        painter.drawText(QPointF(x, y + 16), text)

    @staticmethod
    def _name(painter: QPainter, scene: BlankScene, placed: Any, at: Any) -> None:
        x0, y0, x1, y1 = placed.shape.bounds
        (px, _), (qx, _) = scene.view.to_pixels(np.array([[x0, y1], [x1, y0]]) + at)
        if qx - px < LEAST:
            return
        middle = placed.shape.representative_point()
        x, y = scene.view.to_pixels(np.array([[middle.x, middle.y]]) + at)[0]
        text = painter.fontMetrics().elidedText(placed.part.label, Qt.TextElideMode.ElideRight, int(qx - px))
        width = painter.fontMetrics().horizontalAdvance(text)
        if text != placed.part.label and qx - px < ROOM:
            return
        behind = QColor(theme().blank_tint)
        behind.setAlpha(205)  # marks may run below it
        painter.fillRect(QRectF(x - width / 2 - 3, y - 9, width + 6, 18), behind)
        painter.setPen(QColor(theme().ink))
        painter.drawText(QPointF(x - width / 2, y + 4), text)
