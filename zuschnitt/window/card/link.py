"""A word that does something when it is clicked, or when Enter is pressed on it."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import QLabel, QWidget

from ..theme import font, inked


class Link(QLabel):
    """A word that does something."""

    pressed = pyqtSignal()

    def __init__(self, text: str, tip: str, do: Callable[[], object], parent: QWidget | None = None) -> None:
        super().__init__(f"{text}   ", parent)
        self.do = do
        self.setFont(font(11))
        inked(self, "form")
        self.setToolTip(tip)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(f"{text}: {tip}")

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self.rect().contains(event.position().toPoint()):
            self.do()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.do()
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event) -> None:
        self._underline(True)

    def focusOutEvent(self, event) -> None:
        self._underline(False)

    def _underline(self, on: bool) -> None:
        mine = self.font()
        mine.setUnderline(on)
        self.setFont(mine)
