"""Drags the end of something on the form for a number: a flange for its length, a body to lift it; the form follows."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QMouseEvent, QPainter

from ...core.job.route import Job
from ..layers.tips import Tip, tips_of
from ..theme import font, theme
from .tool import Tool

if TYPE_CHECKING:
    from ..stages.form_stage import FormStage

NEAR = 9
"""Within this many pixels an end is meant."""
STEPS = (0.1, 0.5, 1.0, 5.0, 10.0)
"""Numbers go in the first of these steps, in mm, that is half a pixel on the screen, or more."""
SEEN = 0.05
"""An end that moves straight towards the eye, by less than so many pixels for a mm, cannot be dragged."""


class MoveTip(Tool):
    def __init__(self, stage: FormStage) -> None:
        self.stage = stage
        self._tip: Tip | None = None
        self._start = np.zeros(2)
        self._value = 0.0

    def press(self, event: QMouseEvent) -> bool:
        session, here = self.stage.session, self.stage.here(event.position())
        tips, row = tips_of(session), session.selected_row
        self._tip = None
        if not tips or row is None:
            return False
        gaps = np.hypot(*(self.stage.pixels(np.array([tip.point for tip in tips])) - here).T)
        if gaps.min() >= NEAR:
            return False
        self._tip, self._start = tips[int(gaps.argmin())], here
        self._value = self._tip.value
        session.glimpse(row.id, self._edit)  # the first takes longest, so it is begun before the mouse moves
        return True

    def drag(self, event: QMouseEvent) -> None:
        tip, row = self._tip, self.stage.session.selected_row
        if tip is None or row is None:
            return
        ends = self.stage.pixels(np.array([tip.point, tip.point + tip.way]))
        way = ends[1] - ends[0]
        scale = float(np.linalg.norm(way))
        if scale < SEEN:
            return
        moved = float((self.stage.here(event.position()) - self._start) @ way) / scale**2
        step = next((step for step in STEPS if 2 * step * scale >= 1), STEPS[-1])
        value = max(tip.least, round((tip.value + moved) / step) * step)
        if value != self._value:
            self._value = value
            self.stage.session.glimpse(row.id, self._edit)

    def _edit(self, job: Job) -> Job:
        assert self._tip is not None
        return self._tip.edit(job, self._value)

    def drop(self, event: QMouseEvent) -> None:
        session, tip = self.stage.session, self._tip
        if tip is None:
            return
        if self._value == tip.value or not session.edit(tip.title, self._edit):
            session.forget_glimpse()
        self._tip = None

    def click(self, event: QMouseEvent) -> bool:
        tip, self._tip = self._tip, None
        if tip is not None:
            self.stage.session.forget_glimpse()
        return tip is not None

    def paint(self, painter: QPainter) -> None:
        """Its number, beside where the end has come to."""
        tip = self._tip
        if tip is None:
            return
        at = tip.point + (self._value - tip.value) * tip.way
        x, y = self.stage.pixels(at[None])[0]
        painter.setFont(font(12, bold=True))
        text = self.stage.session.words(f"{self._value:.4g} mm")
        room = painter.fontMetrics().boundingRect(text)
        veil = QColor(theme().form_paper)
        veil.setAlpha(215)
        painter.fillRect(room.translated(int(x) + 12, int(y) - 8).adjusted(-3, -2, 4, 2), veil)
        painter.setPen(QColor(theme().form))
        painter.drawText(QPointF(x + 12, y - 8), text)
