"""Rows of a very long job that nobody sees: room for their cards, which are made when it comes into sight."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Mapping, Sequence
from itertools import accumulate

from PyQt6.QtCore import QSize, pyqtSignal
from PyQt6.QtWidgets import QSizePolicy, QWidget

HEIGHT = 84
"""A card that was never made is so many pixels high, about."""
BEYOND = 4
"""So many cards more are made above and below what is in sight."""


class Gap(QWidget):
    """Stands for consecutive rows; when some of them come into sight, ``seen`` says which."""

    seen = pyqtSignal(list)

    def __init__(self) -> None:
        super().__init__()
        self._row_ids: list[str] = []
        self._ends: list[int] = [0]
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)

    def stand_for(self, row_ids: Sequence[str], heights: Mapping[str, int]) -> None:
        """For these rows, whose cards were so high when they were last there."""
        self._row_ids = list(row_ids)
        ends = [0, *accumulate(heights.get(row_id, HEIGHT) for row_id in row_ids)]
        if ends[-1] != self._ends[-1]:
            self.updateGeometry()
        self._ends = ends

    def sizeHint(self) -> QSize:
        return QSize(0, self._ends[-1])

    def paintEvent(self, event) -> None:
        area = self.visibleRegion().boundingRect()
        first = bisect_right(self._ends, area.top()) - 1
        last = bisect_right(self._ends, area.bottom())
        if in_sight := self._row_ids[max(0, first - BEYOND) : last + BEYOND]:
            self.seen.emit(in_sight)
