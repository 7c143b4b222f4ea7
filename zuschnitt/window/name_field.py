"""A name, edited where it stands: Enter takes it, Esc leaves it as it was."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QRect
from PyQt6.QtGui import QKeySequence
from PyQt6.QtWidgets import QLineEdit, QWidget

from .theme import font


class NameField(QLineEdit):
    """Lies over ``area`` of a widget until a name is ``given``; an empty one changes nothing where it may not be."""

    def __init__(
        self,
        over: QWidget,
        area: QRect,
        name: str,
        given: Callable[[str], object],
        words: str,
        may_be_empty: bool = False,
    ) -> None:
        super().__init__(name, over)
        self._given, self._may_be_empty = given, may_be_empty
        self._left = False
        self.setFont(font(13, bold=True))
        self.setAccessibleName(words)
        self.setGeometry(area)
        self.returnPressed.connect(lambda: self._leave(True))
        self.show()
        self.selectAll()
        self.setFocus()

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and event.matches(QKeySequence.StandardKey.Cancel):  # type: ignore[attr-defined]
            self._leave(False)
            return True
        if event.type() == QEvent.Type.FocusOut:
            self._leave(True)
        return super().event(event)

    def _leave(self, take: bool) -> None:
        if self._left:
            return
        self._left = True
        self.hide()
        text = self.text().strip()
        self.deleteLater()
        if take and (text or self._may_be_empty) and self.isModified():
            self._given(text)
