"""Ways compared side by side: for each its flat with test circles, its figures, and its histogram."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from ...core.develop.compared import WAYS, Compared
from ...core.develop.stretch_scale import colours
from ...core.wording import area, percent
from ..stages.paper_view import PaperView
from ..stages.stage import FOOT, HEAD
from ..theme import font, theme
from .layer import BlankLayer, BlankScene
from .paths import path_of, polygon

MARGIN = 16
CHART = 56


class ComparedLayer(BlankLayer):
    """What the selected row compares. ``taken`` are the places where one way is taken for the row: (way, area)."""

    order = 200

    def __init__(self) -> None:
        self.taken: list[tuple[str, QRectF]] = []

    def alone(self, scene: BlankScene) -> str:
        return "all to one scale · circles of the form, as they lie on each flat" if compared(scene) else ""

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        ways = compared(scene)
        if not ways:
            return
        row = scene.session.nearby("blank")
        current = row.parameters.get("way", "") if row is not None else ""
        width, height = scene.view.size
        room = QRectF(0, HEAD, width, height - HEAD - FOOT)
        self._paint(painter, room, ways, scene.blank.way if current == "auto" else current)

    def click(self, scene: BlankScene, position: QPointF) -> bool:
        """Gives the row that was compared the way under the mouse."""
        if not compared(scene):
            return False
        row = scene.session.nearby("blank")
        for way, place in self.taken:
            if row is not None and place.contains(position):
                scene.session.edit("Take a way", lambda job, w=way, r=row: job.set(r.id, "way", w))
        return True

    def _paint(self, painter: QPainter, room: QRectF, compared: Sequence[Compared], current: str) -> None:
        """One band for each way, ``current`` being the way that the row now has."""
        self.taken = []
        scale = self._scale(room, compared)
        height = room.height() / max(len(compared), 1)
        for k, each in enumerate(compared):
            band = QRectF(room.left(), room.top() + k * height, room.width(), height)
            if k:
                painter.setPen(QPen(QColor(theme().rule), 1))
                painter.drawLine(band.topLeft() + QPointF(MARGIN, 0), band.topRight() - QPointF(MARGIN, 0))
            self._band(painter, band.adjusted(MARGIN, 10, -MARGIN, -8), each, scale, current)

    def _scale(self, room: QRectF, compared: Sequence[Compared]) -> float:
        """Pixels for each mm: all flats are drawn alike."""
        width, height = room.width() * 0.46 - MARGIN, room.height() / max(len(compared), 1) - 40
        scales = [1e9]
        for each in compared:
            if each.blank is not None:
                x0, y0, x1, y1 = each.blank.bounds
                scales.append(min(width / max(x1 - x0, 1e-9), height / max(y1 - y0, 1e-9)))
        return min(scales)

    def _band(self, painter: QPainter, band: QRectF, each: Compared, scale: float, current: str) -> None:
        now = theme()
        split = band.left() + band.width() * 0.48
        beside = QRectF(split + 10, band.top(), band.right() - split - 10, band.height())
        painter.setFont(font(13, bold=True))
        painter.setPen(QColor(now.blank))
        title = WAYS.get(each.way, each.way)
        painter.drawText(QRectF(beside.left(), beside.top(), beside.width(), 20), Qt.AlignmentFlag.AlignVCenter, title)
        if each.blank is None:
            painter.setFont(font(12))
            painter.setPen(QColor(now.broken))
            self._text(painter, beside.adjusted(0, 22, 0, 0), each.refusal)
            return
        self._flat(painter, QRectF(band.left(), band.top(), split - band.left(), band.height()), each, scale)
        self._take(painter, beside, each.way, current)
        figures = each.blank.figures
        painter.setFont(font(12))
        painter.setPen(QColor(now.ink))
        lines = (
            f"{area(figures.area_blank)}, {percent(figures.area_change)}",
            f"stretch {percent(figures.stretch_max)} / {percent(figures.stretch_min)}",
        )
        y = beside.top() + 21
        for line in lines:
            painter.drawText(QRectF(beside.left(), y, beside.width(), 17), Qt.AlignmentFlag.AlignVCenter, line)
            y += 17
        y += 22
        chart = QRectF(beside.left(), y + 3, beside.width(), min(CHART, max(24.0, beside.bottom() - y - 74)))
        self._histogram(painter, chart, each)
        painter.setFont(font(11))
        painter.setPen(QColor(now.quiet))
        below = QRectF(beside.left(), chart.bottom() + 18, beside.width(), beside.bottom() - chart.bottom())
        self._text(painter, below, each.purpose)

    def _text(self, painter: QPainter, area: QRectF, text: str) -> None:
        painter.drawText(area, Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap, text)

    def _take(self, painter: QPainter, beside: QRectF, way: str, current: str) -> None:
        now = theme()
        painter.setFont(font(12, bold=way == current))
        words = "the way of the row" if way == current else "take this way"
        width = painter.fontMetrics().horizontalAdvance(words)
        place = QRectF(beside.left(), beside.top() + 57, width, 20)
        painter.setPen(QColor(now.quiet if way == current else now.form))
        painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, words)
        if way != current:
            painter.drawLine(place.bottomLeft() - QPointF(0, 3), place.bottomRight() - QPointF(0, 3))
            self.taken.append((way, place.adjusted(-6, -4, 6, 4)))

    def _flat(self, painter: QPainter, room: QRectF, each: Compared, scale: float) -> None:
        now = theme()
        blank = each.blank
        assert blank is not None
        x0, y0, x1, y1 = blank.bounds
        painter.save()
        painter.translate(room.topLeft())
        view = PaperView(((x0 + x1) / 2, (y0 + y1) / 2), scale, (int(room.width()), int(room.height())))
        mapped = view.transform.map(path_of(blank.outline))
        painter.fillPath(mapped, QColor(now.blank_face))
        painter.strokePath(mapped, QPen(QColor(now.blank), 1.6))
        painter.setPen(QPen(QColor(now.form), 1.3))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for circle in each.circles:
            painter.drawPolygon(polygon(view.to_pixels(circle)))
        painter.restore()

    def _histogram(self, painter: QPainter, chart: QRectF, each: Compared) -> None:
        """Shares of the area by stretch, in the colours of the map; their scale is the same for all."""
        now = theme()
        assert each.bins is not None and each.shares is not None
        middles = (each.bins[1:] + each.bins[:-1]) / 2
        shades = colours(middles, float(each.bins[-1]))
        width = chart.width() / len(each.shares)
        # the root makes small shares visible: they are the ones that matter
        heights = np.sqrt(each.shares / 100) * chart.height()
        for k, (height, shade) in enumerate(zip(heights.tolist(), shades.tolist(), strict=True)):
            bar = QRectF(chart.left() + k * width, chart.bottom() - height, width - 1, height)
            painter.fillRect(bar, QColor(*shade))
            if height > 1.5:
                painter.setPen(QPen(QColor(now.quiet), 0.6))
                painter.drawRect(bar)
        painter.setPen(QPen(QColor(now.quiet), 1))
        painter.drawLine(chart.bottomLeft(), chart.bottomRight())
        painter.setFont(font(11))
        low, high = f"{each.bins[0]:+.1f} %".replace("-", "−"), f"{each.bins[-1]:+.1f} %"
        below = QRectF(chart.left(), chart.bottom() + 1, chart.width(), 15)
        painter.drawText(below, Qt.AlignmentFlag.AlignLeft, low)
        painter.drawText(below, Qt.AlignmentFlag.AlignHCenter, "0")
        painter.drawText(below, Qt.AlignmentFlag.AlignRight, high)


def compared(scene: BlankScene) -> tuple[Compared, ...]:
    """The ways that the selected row compares."""
    return scene.session.drawn("compared") or ()
