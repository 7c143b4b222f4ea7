"""Picks corners of the flat."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPen

from ...core.parameters.plane_points import PickedCorners
from ..drawing import written
from ..theme import theme
from .tool import Tool

if TYPE_CHECKING:
    from ...core.job.route import Row
    from ..stages.blank_stage import BlankStage

REACH = 12.0
"""Within this many pixels a corner is meant."""


class PickCorners(Tool):
    words = "click corners of the flat; once more leaves one as it was · Enter ends"
    picks = "corners"

    def __init__(self, stage: BlankStage) -> None:
        self.stage, self.session = stage, stage.session

    @property
    def ready(self) -> bool:
        """Whether a value waits for corners, and there is a flat."""
        return self._asked is not None and self.stage.blank() is not None

    @property
    def _asked(self) -> tuple[Row, PickedCorners] | None:
        """The row and its value that waits for corners."""
        wanted = self.session.wanted
        row = self.session.row(wanted.row_id) if wanted is not None else None
        found = self.session.job.parameter(row, wanted.name) if row is not None and wanted is not None else None
        return (row, found) if row is not None and isinstance(found, PickedCorners) else None

    def press(self, event: QMouseEvent) -> bool:
        return self._under(event.position(), np.vstack([self._known(), self._corners()])) is not None

    def key(self, event: QKeyEvent) -> bool:
        """Enter and Esc end it."""
        if event.key() not in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Escape):
            return False
        self.session.want(None)
        return True

    def click(self, event: QMouseEvent) -> bool:
        """Takes the corner under the mouse, or gives it back."""
        asked = self._asked
        if asked is None:
            return True
        row, parameter = asked
        parts, known, corners = parameter.parts(parameter.written(row)), self._known(), self._corners()
        k, taken = self._under(event.position(), known), self._under(event.position(), corners)
        if k is not None:
            parts = [part for n, part in enumerate(parts) if n != k]
        elif taken is not None:
            parts = [*parts, ", ".join(map(written, corners[taken]))]
        value, name = "; ".join(parts), parameter.name
        self.session.edit("Click a corner", lambda job: job.set(row.id, name, value))
        return True

    def paint(self, painter: QPainter) -> None:
        """A ring round each corner that is taken."""
        painter.setPen(QPen(QColor(theme().form), 1.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for x, y in self.stage.view.to_pixels(self._known()):
            painter.drawEllipse(QPointF(x, y), 7, 7)

    def _corners(self) -> np.ndarray:
        """The corners of the flat as it is now, (n, 2)."""
        blank = self.stage.blank()
        return np.vstack([contour.points for contour in blank.outline]) if blank is not None else np.zeros((0, 2))

    def _known(self) -> np.ndarray:
        """The corners that are taken, (n, 2) on the flat."""
        asked = self._asked
        if asked is None:
            return np.zeros((0, 2))
        row, parameter = asked
        return np.array(parameter.resolved(parameter.written(row), self.session.job.numbers)).reshape(-1, 2)

    def _under(self, position: QPointF, corners: np.ndarray) -> int | None:
        if not len(corners):
            return None
        away = np.linalg.norm(self.stage.view.to_pixels(corners) - [position.x(), position.y()], axis=1)
        return int(away.argmin()) if away.min() < REACH else None
