"""Moves the points that a row goes through on the form; with Ctrl takes one away, or puts one more between."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPen

from ...core.wording import coordinates
from ..layers.paths import polygon
from ..layers.point_handles import RADIUS, parameter_of, points_of
from ..theme import theme
from .tool import Tool

if TYPE_CHECKING:
    from ..stages.form_stage import FormStage

NEAR = 9
"""Within this many pixels a point is meant."""


class MovePoint(Tool):
    words = "drag points · Ctrl + click adds, takes away"

    def __init__(self, stage: FormStage) -> None:
        self.stage = stage
        self._points = np.zeros((0, 3))
        self._held: int | None = None

    def press(self, event: QMouseEvent) -> bool:
        """Takes hold of the nearest point; with Ctrl of any place of the form."""
        self._points, self._held = points_of(self.stage.session), None
        if len(self._points):
            gaps = np.hypot(*(self.stage.pixels(self._points) - self.stage.here(event.position())).T)
            if gaps.min() < NEAR:
                self._held = int(gaps.argmin())
        return self._held is not None or (len(self._points) > 0 and _more(event) and self._place(event) is not None)

    def drag(self, event: QMouseEvent) -> None:
        place = self._place(event)
        if self._held is not None and place is not None:
            self._points = self._points.copy()
            self._points[self._held] = place

    def drop(self, event: QMouseEvent) -> None:
        held, self._held = self._held, None
        if held is not None:
            self._write("Move a point", held, coordinates(self.stage.on_surface(self._points[held])))

    def click(self, event: QMouseEvent) -> bool:
        held, self._held = self._held, None
        if not _more(event):
            return held is not None
        if held is not None:
            self._write("Take a point away", held, None)
        elif (place := self._place(event)) is not None:
            text = coordinates(self.stage.on_surface(place))
            self._write("Put a point between", _between(self._points, place), text, between=True)
        return True

    def paint(self, painter: QPainter) -> None:
        """Where a point that is dragged would be, and what is on both sides of it."""
        if self._held is None:
            return
        near = self._points[max(self._held - 1, 0) : self._held + 2]
        painter.setPen(QPen(QColor(theme().curve), 1.4, Qt.PenStyle.DashLine))
        painter.drawPolyline(polygon(self.stage.pixels(near)))
        x, y = self.stage.pixels(self._points[self._held][None])[0]
        painter.setPen(QPen(QColor(theme().curve), 1.6))
        painter.drawEllipse(QPointF(x, y), RADIUS, RADIUS)

    def _place(self, event: QMouseEvent) -> np.ndarray | None:
        """The point of the form under the mouse; corners and edges catch it."""
        point = self.stage.place(event.position())
        return None if point is None else self.stage.caught(self.stage.here(event.position()), point)

    def _write(self, what: str, place: int, text: str | None, between: bool = False) -> None:
        """Changes one point of the row as it is written, and leaves all others as they are."""
        session, row = self.stage.session, self.stage.session.selected_row
        parameter = parameter_of(row)
        if row is None or parameter is None:
            return
        parts = parameter.parts(parameter.written(row))
        parts[place : place if between else place + 1] = [] if text is None else [text]
        value, name = "; ".join(parts), parameter.name
        session.edit(what, lambda job: job.set(row.id, name, value))


def _more(event: QMouseEvent) -> bool:
    return bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)


def _between(points: np.ndarray, place: np.ndarray) -> int:
    """Before which point a new one lengthens the way least; one past the last where it goes on from there."""
    gaps = np.linalg.norm(points - place, axis=1)
    detours = gaps[1:] + gaps[:-1] - np.linalg.norm(np.diff(points, axis=0), axis=1)
    ways = np.r_[gaps[0], detours, gaps[-1]] if len(points) > 1 else np.r_[np.inf, gaps[-1]]
    return int(ways.argmin())
