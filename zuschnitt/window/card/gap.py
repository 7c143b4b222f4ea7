"""Rows of a very long job that nobody has seen yet: room for their cards, which are made when it comes into sight."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QSize, pyqtSignal
from PyQt6.QtWidgets import QSizePolicy, QWidget

HEIGHT = 84
"""A card is so many pixels high, about."""
BEYOND = 4
"""So many cards more are made above and below what is in sight."""


class Gap(QWidget):
    """Stands for consecutive rows; when some of them come into sight, ``seen`` says which."""

    seen = pyqtSignal(list)

    def __init__(self) -> None:
        super().__init__()
        self._row_ids: list[str] = []
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)

    def stand_for(self, row_ids: Sequence[str]) -> None:
        if len(row_ids) != len(self._row_ids):
            self.updateGeometry()
        self._row_ids = list(row_ids)

    def sizeHint(self) -> QSize:
        return QSize(0, HEIGHT * len(self._row_ids))

    def paintEvent(self, event) -> None:
        area = self.visibleRegion().boundingRect()
        first = max(0, area.top() // HEIGHT - BEYOND)
        if in_sight := self._row_ids[first : area.bottom() // HEIGHT + 1 + BEYOND]:
            self.seen.emit(in_sight)
