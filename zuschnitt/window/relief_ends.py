"""Reliefs moved by hand: their ends on the form, and the row that keeps where they were dragged to."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from ..core.operations.registry import entry
from ..core.route import Job, Row
from ..core.wording import coordinates
from .session import Session
from .theme import theme


@dataclass(frozen=True)
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


def relief_ends(session: Session) -> list[np.ndarray]:
    """Both ends (2, 3) of each relief that the selected row gives; none where it gives no reliefs."""
    row = session.selected_row
    if row is None or session.gives(row) != "reliefs":
        return []
    return [relief.points[[0, -1]] for relief in session.value(row, "reliefs") or ()]


def grip_at(ends: list[np.ndarray], project, here: np.ndarray, near: float) -> ReliefGrip | None:
    """The end within ``near`` pixels of ``here`` (2,), the nearest; ``project`` takes points (n, 3) to pixels."""
    found = None
    for number, points in enumerate(ends, 1):
        gaps = np.hypot(*(project(points) - here).T)
        if gaps.min() < near:
            near, found = float(gaps.min()), ReliefGrip(number, int(gaps.argmin()), points)
    return found


def paint_ends(painter: QPainter, ends: list[np.ndarray], project, grip: ReliefGrip | None) -> None:
    """Handles at the ends, and the relief that is being dragged."""
    now = theme()
    painter.setPen(QPen(QColor(now.blank), 1.4))
    painter.setBrush(QColor(now.form_paper))
    for points in ends:
        for x, y in project(points):
            painter.drawEllipse(QPointF(x, y), 4.5, 4.5)
    if grip is not None:
        painter.drawPolyline(QPolygonF([QPointF(x, y) for x, y in project(grip.points)]))


def with_moved(job: Job, row: Row, grip: ReliefGrip) -> tuple[Job, str]:
    """The job in which a relief that ``row`` gives was moved, and the id of the row that says so.

    A row that moves the same relief is changed; else one is added, and what took the reliefs takes them from it.
    """
    text = coordinates(*grip.points)
    if row.operation == "move_relief" and str(row.parameters["which"]).strip() == str(grip.number):
        return job.set(row.id, "through", text), row.id
    values = {"reliefs": row.id, "which": str(grip.number), "through": text}
    job = job.added("move_relief", after=row.id, **values)
    moved = job.rows[job.place(row.id) + 1]
    for other in job.rows[job.place(moved.id) + 1 :]:
        for parameter in entry(other.operation).parameters:
            if parameter.kind == "source" and "reliefs" in parameter.accepts:
                taken = job.source(other, parameter)
                if taken is not None and taken.id == row.id:
                    job = job.set(other.id, parameter.name, moved.id)
    return job, moved.id
