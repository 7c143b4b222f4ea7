"""What both stages share: head line with its faces, full width, messages along the bottom."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QWidget

from ..theme import font, theme

HEAD = 40
FOOT = 30


class Stage(QWidget):
    """``modes`` are the faces of the stage: (key, what stands on it)."""

    mode_changed = pyqtSignal(str)
    wide_asked = pyqtSignal()
    offer_taken = pyqtSignal(str)

    def __init__(self, title: str, side: str, modes: Sequence[tuple[str, str]]) -> None:
        super().__init__()
        self.title, self.side, self.modes = title, side, tuple(modes)
        self.mode = modes[0][0]
        self.about = ""
        self.warning = ""
        self._tabs: list[tuple[str, QRectF]] = []
        self._wide = QRectF()
        self.offers: tuple[str, ...] = ()
        self._offers: list[tuple[str, QRectF]] = []
        self.wide = False
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumWidth(200)
        self.setAccessibleName(title.lower())

    @property
    def colour(self) -> str:
        return theme().form if self.side == "form" else theme().blank

    @property
    def paper(self) -> str:
        return theme().form_paper if self.side == "form" else theme().blank_paper

    def show_mode(self, mode: str) -> None:
        if mode != self.mode and mode in dict(self.modes):
            self.mode = mode
            self.mode_changed.emit(mode)
            self.update()

    def next_mode(self) -> None:
        keys = [key for key, _ in self.modes]
        self.show_mode(keys[(keys.index(self.mode) + 1) % len(keys)])

    def paint_head(self, painter: QPainter) -> None:
        now = theme()
        painter.fillRect(QRectF(0, 0, self.width(), HEAD), QColor(self.paper))
        painter.setFont(font(12, bold=True))
        painter.setPen(QColor(self.colour))
        title_width = painter.fontMetrics().horizontalAdvance(self.title)
        painter.drawText(QRectF(16, 0, title_width + 4, HEAD), Qt.AlignmentFlag.AlignVCenter, self.title)
        painter.setFont(font(12))
        x = self.width() - 14.0
        x = self._paint_wide(painter, x)
        self._tabs = []
        for key, label in reversed(self.modes):
            chosen = key == self.mode
            painter.setFont(font(12, bold=chosen))
            width = painter.fontMetrics().horizontalAdvance(label)
            area = QRectF(x - width, 6, width, HEAD - 12)
            painter.setPen(QColor(now.ink if chosen else now.quiet))
            painter.drawText(area, Qt.AlignmentFlag.AlignCenter, label)
            if chosen:
                painter.fillRect(QRectF(area.left(), HEAD - 9, width, 2), QColor(self.colour))
            self._tabs.append((key, area.adjusted(-6, 0, 6, 0)))
            x -= width + 16
        painter.setFont(font(12))
        painter.setPen(QColor(now.broken if self.warning else now.quiet))
        room = x - title_width - 30
        about = painter.fontMetrics().elidedText(
            self.warning or self.about, Qt.TextElideMode.ElideRight, int(max(0, room))
        )
        painter.drawText(QRectF(title_width + 26, 0, room, HEAD), Qt.AlignmentFlag.AlignVCenter, about)

    def _paint_wide(self, painter: QPainter, right: float) -> float:
        """Two arrows outwards (or inwards): the stage takes the whole width, or gives it back."""
        area = QRectF(right - 18, HEAD / 2 - 9, 18, 18)
        painter.setPen(QPen(QColor(theme().quiet), 1.5))
        y = area.center().y()
        tips = (area.left() + 1, area.right() - 1) if not self.wide else (area.center().x() - 2, area.center().x() + 2)
        painter.drawLine(QPointF(area.left() + 1, y), QPointF(area.center().x() - 2, y))
        painter.drawLine(QPointF(area.center().x() + 2, y), QPointF(area.right() - 1, y))
        for tip, direction in zip(tips, (-1, 1), strict=True):
            back = -direction if not self.wide else direction
            for up in (-1, 1):
                painter.drawLine(QPointF(tip, y), QPointF(tip + 4 * back, y + 4 * up))
        self._wide = area.adjusted(-4, -6, 4, 6)
        return area.left() - 14

    def paint_foot(self, painter: QPainter, left: str, right: str = "") -> None:
        """Words along the bottom; ``offers`` at its right end do what they say when they are clicked."""
        painter.setFont(font(11))
        x = self.width() - 16.0
        self._offers = []
        painter.setPen(QColor(self.colour))
        for words in reversed(self.offers):
            width = painter.fontMetrics().horizontalAdvance(words)
            area = QRectF(x - width, self.height() - FOOT, width, FOOT)
            painter.drawText(area, Qt.AlignmentFlag.AlignVCenter, words)
            self._offers.append((words, area.adjusted(-5, 0, 5, 0)))
            x -= width + 12
        painter.setPen(QColor(theme().quiet))
        area = QRectF(16, self.height() - FOOT, x - 22, FOOT)
        left = painter.fontMetrics().elidedText(left, Qt.TextElideMode.ElideRight, int(area.width()))
        painter.drawText(area, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, left)
        room = area.width() - painter.fontMetrics().horizontalAdvance(f"{left}   ")
        right = painter.fontMetrics().elidedText(right, Qt.TextElideMode.ElideRight, int(room))
        painter.drawText(area, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, right)

    def paint_invitation(self, painter: QPainter, head: str, text: str) -> None:
        """What an empty stage says to do next."""
        painter.setFont(font(15, bold=True))
        painter.setPen(QColor(self.colour))
        middle = self.height() / 2
        width = min(self.width() - 60.0, 340.0)
        left = (self.width() - width) / 2
        painter.drawText(QRectF(left, middle - 46, width, 26), Qt.AlignmentFlag.AlignCenter, head)
        painter.setFont(font(13))
        painter.setPen(QColor(theme().quiet))
        flags = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap
        painter.drawText(QRectF(left, middle - 14, width, 120), flags, text)

    def head_pressed(self, event: QMouseEvent) -> bool:
        """Whether a press was on the head line or on an offer, which then deals with it."""
        if event.position().y() > HEAD:
            return self._foot_pressed(event.position())
        for key, area in self._tabs:
            if area.contains(event.position()):
                self.show_mode(key)
        if self._wide.contains(event.position()):
            self.wide_asked.emit()
        return True

    def _foot_pressed(self, position: QPointF) -> bool:
        taken = next((words for words, area in self._offers if area.contains(position)), None)
        if taken is not None:
            self.offer_taken.emit(taken)
        return taken is not None

    def head_tip(self, position: QPointF) -> str:
        if self._wide.contains(position):
            return "the whole width for this stage, or back"
        return ""
