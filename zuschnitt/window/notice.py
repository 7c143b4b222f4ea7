"""One sentence across the top of the stages, with what can be done about it."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QColor, QPainter
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from .theme import font, inked, theme


class Notice(QWidget):
    """Stays until it is answered or dismissed; a mere note goes by itself."""

    def __init__(self) -> None:
        super().__init__()
        self._layout = QHBoxLayout(self)
        self._layout.setContentsMargins(16, 5, 12, 5)
        self.label = QLabel()
        self.label.setFont(font(13))
        self.label.setWordWrap(True)
        self._layout.addWidget(self.label, 1)
        self._buttons: list[QPushButton] = []
        self._timer = QTimer(self, singleShot=True)
        self._timer.timeout.connect(self.hide)
        self.hide()

    def say(self, text: str, kind: str, *answers: tuple[str, Callable[[], object]]) -> None:
        """``kind`` is note or problem; ``answers`` are buttons, and there is always one to dismiss it."""
        for button in self._buttons:
            button.hide()
            button.deleteLater()
        self._buttons = []
        inked(self.label, "broken" if kind == "problem" else "")
        self.label.setText(text)
        for words, do in (*answers, ("dismiss", lambda: None)):
            button = QPushButton(words)
            button.setFont(font(12))
            button.clicked.connect(self.hide)
            button.clicked.connect(lambda _, act=do: act())
            self._layout.addWidget(button)
            self._buttons.append(button)
        self.show()
        if kind == "note" and not answers:
            self._timer.start(6000)
        else:
            self._timer.stop()

    def paintEvent(self, event) -> None:
        now = theme()
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(now.chosen))
        painter.setPen(QColor(now.rule))
        painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)

    def keyPressEvent(self, event) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.hide()
        else:
            super().keyPressEvent(event)
