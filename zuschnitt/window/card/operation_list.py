"""The list of operations, in the order in which the work is done."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter
from PyQt6.QtWidgets import QLineEdit, QScrollArea, QVBoxLayout, QWidget

from ...core.operations.registry import GROUPS, Entry, entries
from ..theme import font, theme

LINE = 53
GROUP = 24


class _Lines(QWidget):
    """Paints the entries that fit what was typed; one is chosen."""

    picked = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.shown: list[Entry] = []
        self.chosen = 0
        self.setMouseTracking(True)  # what is shown is asked for when the list opens: it imports every operation

    def narrow(self, text: str) -> None:
        typed = text.lower().strip()
        words = typed.split()
        self.shown = [
            e
            for e in entries().values()
            if all(word in f"{e.title} {e.takes} {e.makes} {e.group}".lower() for word in words)
        ]
        titles = [entry.title.lower() for entry in self.shown]
        fits = [
            (title != typed, not title.startswith(typed), not all(word in title for word in words)) for title in titles
        ]
        self.chosen = min(range(len(fits)), key=fits.__getitem__, default=0)
        self.setMinimumHeight(max(60, sum(height for _, height in self._places())))
        self.update()

    def _places(self):
        """Groups and entries with their heights, in order."""
        for group in GROUPS:
            mine = [e for e in self.shown if e.group == group]
            if mine:
                yield group, GROUP
                for each in mine:
                    yield each, LINE

    def paintEvent(self, event) -> None:
        now = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        y = 0
        if not self.shown:
            painter.setFont(font(12))
            painter.setPen(QColor(now.quiet))
            painter.drawText(
                QRectF(16, 8, self.width() - 32, 40), Qt.AlignmentFlag.AlignLeft, "Nothing fits these words."
            )
        for item, height in self._places():
            area = QRectF(0, y, self.width(), height)
            if isinstance(item, str):
                painter.setFont(font(11, bold=True))
                painter.setPen(QColor(now.quiet))
                painter.drawText(area.adjusted(16, 6, -16, 0), Qt.AlignmentFlag.AlignVCenter, item)
            else:
                self._paint_entry(painter, area, item)
            y += height

    def _paint_entry(self, painter: QPainter, area: QRectF, item: Entry) -> None:
        now = theme()
        form_side = item.stage.startswith("form")
        if self.shown[self.chosen] is item:
            painter.fillRect(area.adjusted(8, 1, -8, -1), QColor(now.form_tint if form_side else now.blank_tint))
        painter.setFont(font(13, bold=True))
        painter.setPen(QColor(now.form if form_side else now.blank))
        painter.drawText(area.adjusted(16, 3, -16, -31), Qt.AlignmentFlag.AlignVCenter, item.title)
        painter.setFont(font(11))
        painter.setPen(QColor(now.quiet if self.shown[self.chosen] is not item else now.ink))
        flags = Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap
        painter.drawText(area.adjusted(16, 22, -16, 0), flags, f"{item.takes} → {item.makes}")

    def place_of(self, index: int) -> tuple[int, int]:
        y = 0
        for item, height in self._places():
            if not isinstance(item, str) and self.shown[index] is item:
                return y, height
            y += height
        return 0, 0

    def _at(self, position) -> int | None:
        y = 0
        for item, height in self._places():
            if y <= position.y() < y + height and not isinstance(item, str):
                return self.shown.index(item)
            y += height
        return None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = self._at(event.position())
        if at is not None and at != self.chosen:
            self.chosen = at
            item = self.shown[at]
            self.setToolTip(f"in: {item.takes}\nout: {item.makes}")
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        at = self._at(event.position())
        if at is not None:
            self.picked.emit(self.shown[at].key)


class OperationList(QWidget):
    """A field to type in, and the lines. ``picked`` gives the key of an operation."""

    picked = pyqtSignal(str)
    left = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        self.field = QLineEdit()
        self.field.setFont(font(13))
        self.field.setPlaceholderText("what is to be done? type to narrow, Enter takes it")
        self.field.setAccessibleName("operations")
        self.field.textEdited.connect(self._narrowed)
        self.field.installEventFilter(self)
        field_area = QVBoxLayout()
        field_area.setContentsMargins(14, 8, 14, 2)
        field_area.addWidget(self.field)
        layout.addLayout(field_area)
        self.lines = _Lines()
        self.lines.picked.connect(self.picked)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setWidget(self.lines)
        layout.addWidget(self._scroll, 1)

    def start(self) -> None:
        self.field.clear()
        self.lines.narrow("")
        self.field.setFocus()

    def _narrowed(self, text: str) -> None:
        self.lines.narrow(text)
        self._show_chosen()

    def _show_chosen(self) -> None:
        y, height = self.lines.place_of(self.lines.chosen)
        self._scroll.ensureVisible(0, y + height, 0, height + GROUP)

    def eventFilter(self, watched, event: QEvent) -> bool:
        if watched is self.field and event.type() == QEvent.Type.KeyPress:
            assert isinstance(event, QKeyEvent)
            if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up) and self.lines.shown:
                step = 1 if event.key() == Qt.Key.Key_Down else -1
                self.lines.chosen = (self.lines.chosen + step) % len(self.lines.shown)
                self._show_chosen()
                self.lines.update()
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                if self.lines.shown:
                    self.picked.emit(self.lines.shown[self.lines.chosen].key)
                return True
            if event.key() == Qt.Key.Key_Escape:
                self.left.emit()
                return True
        return super().eventFilter(watched, event)
