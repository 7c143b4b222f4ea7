"""Moves a relief by one of its ends."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPen

from ...core.job.route import Job
from ...core.operations.move_relief import with_relief_moved
from ...core.record import record
from ..layers.paths import polygon
from ..layers.reliefs import relief_ends
from ..theme import theme
from .tool import Tool

if TYPE_CHECKING:
    from ..stages.form_stage import FormStage

NEAR = 9
"""Within this many pixels an end is meant."""


@record
class ReliefGrip:
    """The end that is dragged of relief ``number``: of its two ends ``points`` (2, 3) the one at ``end``."""

    number: int
    end: int
    points: np.ndarray

    def at(self, point: np.ndarray) -> ReliefGrip:
        """With the dragged end at ``point`` (3,)."""
        points = self.points.copy()
        points[self.end] = point
        return replace(self, points=points)


class MoveRelief(Tool):
    words = "drag the end of a relief to move it · drag turns"

    def __init__(self, stage: FormStage) -> None:
        self.stage = stage
        self._grip: ReliefGrip | None = None

    def press(self, event: QMouseEvent) -> bool:
        ends = relief_ends(self.stage.session)
        self._grip = grip_at(ends, self.stage.pixels, self.stage.here(event.position()), NEAR)
        return self._grip is not None

    def drag(self, event: QMouseEvent) -> None:
        """Takes the end of a relief to the mouse; edges catch it."""
        point = self.stage.place(event.position())
        if self._grip is not None and point is not None:
            self._grip = self._grip.at(point)

    def drop(self, event: QMouseEvent) -> None:
        """The row that keeps where it was dragged to, selected."""
        grip, row, session = self._grip, self.stage.session.selected_row, self.stage.session
        self._grip = None
        if grip is None or row is None:
            return
        made = [row.id]

        def edit(job: Job) -> Job:
            job, made[0] = with_relief_moved(job, row, grip.number, grip.points)
            return job

        if session.edit("Move a relief", edit):
            session.select(made[0])

    def click(self, event: QMouseEvent) -> bool:
        grip, self._grip = self._grip, None
        return grip is not None

    def paint(self, painter: QPainter) -> None:
        if self._grip is not None:
            painter.setPen(QPen(QColor(theme().blank), 1.4))
            painter.drawPolyline(polygon(self.stage.pixels(self._grip.points)))


def grip_at(ends: list[np.ndarray], project, here: np.ndarray, near: float) -> ReliefGrip | None:
    """The end within ``near`` pixels of ``here`` (2,), the nearest; ``project`` takes points (n, 3) to pixels."""
    found = None
    for number, points in enumerate(ends, 1):
        gaps = np.hypot(*(project(points) - here).T)
        if gaps.min() < near:
            near, found = float(gaps.min()), ReliefGrip(number, int(gaps.argmin()), points)
    return found
