"""The figures of what is selected, along the bottom."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QFontMetrics, QPainter
from PyQt6.QtWidgets import QWidget

from ..core.results.result import Figure
from .session import Session
from .theme import font, side_colour, theme

HEIGHT = 78
SIZES = (20, 18, 16, 14, 12, 11)
"""Of values, in pixels."""


class FiguresBar(QWidget):
    """Those of the selected row; a row that is broken shows its reason instead."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedHeight(HEIGHT)
        self.setAccessibleName("figures")
        for signal in (session.selection_changed, session.job_changed, session.work_changed):
            signal.connect(self.update)
        session.seen_changed.connect(self.update)

    def figures(self) -> tuple[Figure, ...]:
        outcome = self.session.outcome(self.session.selected_row)
        figures = outcome.figures if outcome is not None else ()
        return tuple(replace(figure, text=self.session.words(figure.text)) for figure in figures)

    def paintEvent(self, event) -> None:
        now = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(now.paper))
        painter.setPen(QColor(now.rule))
        painter.drawLine(0, 0, self.width(), 0)
        row = self.session.selected_row
        state = self.session.states.get(row.id) if row is not None else None
        if row is not None and state is not None and state.status in ("broken", "waiting", "stopped"):
            colour = now.ink if state.status == "waiting" else now.broken
            self._paint_reason(painter, f"row {row.number} {state.status}", self.session.words(state.reason), colour)
            return
        outcome = self.session.outcome(row)
        if outcome is None or not outcome.figures:
            return
        figures, messages = self.figures(), outcome.messages
        room = self.width() - 40
        bottom = HEIGHT - 20 if messages else HEIGHT
        size, places = self._places(figures, room)
        stale = row is not None and row.id in self.session.pending
        for figure, (x, each) in zip(figures, places, strict=True):
            painter.setFont(font(11))
            painter.setPen(QColor(now.quiet))
            painter.drawText(QRectF(x, 8, each, 20), Qt.AlignmentFlag.AlignVCenter, figure.label)
            painter.setPen(QColor(now.quiet if stale else side_colour(figure.side)))
            self._paint_value(painter, QRectF(x, 26, each, bottom - 32), figure.text, size)
        if messages:
            painter.setFont(font(12))
            x = 20.0
            for said, colour in ((outcome.warnings, now.broken), (outcome.notes, now.ink)):
                if not said:
                    continue
                words = self.session.words("  ".join(said))
                text = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(20 + room - x))
                painter.setPen(QColor(colour))
                painter.drawText(QRectF(x, HEIGHT - 26, 20 + room - x, 20), Qt.AlignmentFlag.AlignVCenter, text)
                x += painter.fontMetrics().horizontalAdvance(f"{text}  ")

    @staticmethod
    def _places(figures: tuple[Figure, ...], room: float) -> tuple[int, list[tuple[float, float]]]:
        """The size of all values, as large as fits; left and width of each: its need, and a share of what is left."""
        label = QFontMetrics(font(11))
        for size in SIZES:
            measure = QFontMetrics(font(size))
            least = 90 if size == SIZES[0] else 50
            needs = [
                max(least, measure.horizontalAdvance(f.text) + 14, label.horizontalAdvance(f.label) + 10)
                for f in figures
            ]
            if sum(needs) <= room:
                break
        spare = min(90.0, (room - sum(needs)) / len(figures))
        lefts = np.cumsum([20.0, *(need + spare for need in needs)])
        return size, [(float(x), need + min(spare, 0)) for x, need in zip(lefts, needs, strict=False)]

    @staticmethod
    def _paint_value(painter: QPainter, area: QRectF, text: str, size: int) -> None:
        """In that size, or as large as fits."""
        for pixels in (each for each in SIZES if each <= size):
            painter.setFont(font(pixels))
            if painter.fontMetrics().horizontalAdvance(text) <= area.width():
                break
        painter.drawText(area, Qt.AlignmentFlag.AlignVCenter, text)

    def _paint_reason(self, painter: QPainter, label: str, reason: str, colour: str) -> None:
        now = theme()
        painter.setFont(font(11))
        painter.setPen(QColor(now.quiet))
        painter.drawText(QRectF(20, 8, 300, 20), Qt.AlignmentFlag.AlignVCenter, label)
        painter.setFont(font(14))
        painter.setPen(QColor(colour))
        area = QRectF(20, 28, self.width() - 40, HEIGHT - 34)
        painter.drawText(area, Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap, reason)
