"""A layout that sets widgets one after the other, like words, and breaks lines."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QRect, QSize, Qt
from PyQt6.QtWidgets import QLayout, QLayoutItem, QWidget


class Flow(QLayout):
    """``line`` is the height of a line in pixels."""

    def __init__(self, parent: QWidget | None = None, line: int = 24) -> None:
        super().__init__(parent)
        self._items: list[QLayoutItem] = []
        self._line = line
        self.setContentsMargins(0, 0, 0, 0)

    def addItem(self, item: QLayoutItem) -> None:
        self._items.append(item)

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self._arrange(QRect(0, 0, width, 0), move=False)

    def setGeometry(self, area: QRect) -> None:
        super().setGeometry(area)
        self._arrange(area, move=True)

    def sizeHint(self) -> QSize:
        return self.minimumSize()

    def minimumSize(self) -> QSize:
        width = max((item.minimumSize().width() for item in self._items if not item.isEmpty()), default=0)
        return QSize(min(width, 120), self._line)

    def _arrange(self, area: QRect, move: bool) -> int:
        x, y = area.x(), area.y()
        for item in self._items:
            if item.isEmpty():  # hidden
                continue
            size = item.sizeHint()
            if x > area.x() and x + size.width() > area.right() + 2:
                x, y = area.x(), y + self._line
            if move:
                width = min(size.width(), area.width())
                item.setGeometry(QRect(QPoint(x, y + (self._line - size.height()) // 2), QSize(width, size.height())))
            x += size.width()
        return y + self._line - area.y()
