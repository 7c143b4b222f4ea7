"""Makes a flange longer or shorter by its free end; the part follows."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QMouseEvent, QPainter

from ...core.errors import Refused
from ...core.job.route import Job
from ...core.parameters.flanges import with_length
from ..layers.flange_tips import parameter_of, tips_of
from ..theme import font, theme
from .tool import Tool

if TYPE_CHECKING:
    from ...core.sheet.flange_tips import FlangeTip
    from ..stages.form_stage import FormStage

NEAR = 9
"""Within this many pixels an end is meant."""
STEPS = (0.1, 0.5, 1.0, 5.0, 10.0)
"""Lengths go in the first of these steps, in mm, that is half a pixel on the screen, or more."""
SEEN = 0.05
"""An end that moves straight towards the eye, by less than so many pixels for a mm, cannot be dragged."""


@dataclass(frozen=True)
class FlangeGrip:
    """The end that is dragged, from the pixel ``start`` (2,), of a flange that was ``length`` mm long."""

    tip: FlangeTip
    start: np.ndarray
    length: float


class MoveFlange(Tool):
    words = "drag the end of a flange for its length"

    def __init__(self, stage: FormStage) -> None:
        self.stage = stage
        self._grip: FlangeGrip | None = None
        self._length = 0.0

    def press(self, event: QMouseEvent) -> bool:
        session, here = self.stage.session, self.stage.here(event.position())
        tips, row = tips_of(session), self.stage.session.selected_row
        parameter = parameter_of(row)
        self._grip = None
        if not tips or row is None or parameter is None:
            return False
        gaps = np.hypot(*(self.stage.pixels(np.array([tip.point for tip in tips])) - here).T)
        if gaps.min() >= NEAR:
            return False
        tip = tips[int(gaps.argmin())]
        try:
            written = parameter.resolved(parameter.written(row), session.job.numbers)
        except Refused:
            return False
        chain = (written[tip.flange], *written[tip.flange].then)
        self._length = chain[tip.wall].length
        self._grip = FlangeGrip(tip, here, self._length)
        session.glimpse(row.id, self._edit)  # the first takes longest, so it is begun before the mouse moves
        return True

    def drag(self, event: QMouseEvent) -> None:
        grip, row = self._grip, self.stage.session.selected_row
        if grip is None or row is None:
            return
        ends = self.stage.pixels(np.array([grip.tip.point, grip.tip.point + grip.tip.way]))
        way = ends[1] - ends[0]
        scale = float(np.linalg.norm(way))
        if scale < SEEN:
            return
        moved = float((self.stage.here(event.position()) - grip.start) @ way) / scale**2
        step = next((step for step in STEPS if 2 * step * scale >= 1), STEPS[-1])
        length = max(step, round((grip.length + moved) / step) * step)
        if length != self._length:
            self._length = length
            self.stage.session.glimpse(row.id, self._edit)

    def _edit(self, job: Job) -> Job:
        row, grip = self.stage.session.selected_row, self._grip
        parameter = parameter_of(row)
        assert row is not None and grip is not None and parameter is not None
        value = with_length(parameter.written(row), grip.tip.flange, grip.tip.wall, self._length)
        return job.set(row.id, parameter.name, value)

    def drop(self, event: QMouseEvent) -> None:
        session, grip, row = self.stage.session, self._grip, self.stage.session.selected_row
        if grip is None or row is None:
            return
        if self._length == grip.length or not session.edit("Make a flange longer or shorter", self._edit):
            session.forget_glimpse()
        self._grip = None

    def click(self, event: QMouseEvent) -> bool:
        grip, self._grip = self._grip, None
        if grip is not None:
            self.stage.session.forget_glimpse()
        return grip is not None

    def paint(self, painter: QPainter) -> None:
        """Its length, beside where its end has come to."""
        grip = self._grip
        if grip is None:
            return
        at = grip.tip.point + (self._length - grip.length) * grip.tip.way
        x, y = self.stage.pixels(at[None])[0]
        painter.setFont(font(12, bold=True))
        text = self.stage.session.words(f"{self._length:g} mm")
        room = painter.fontMetrics().boundingRect(text)
        veil = QColor(theme().form_paper)
        veil.setAlpha(215)
        painter.fillRect(room.translated(int(x) + 12, int(y) - 8).adjusted(-3, -2, 4, 2), veil)
        painter.setPen(QColor(theme().form))
        painter.drawText(QPointF(x + 12, y - 8), text)
