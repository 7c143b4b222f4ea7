"""Points that a row goes through, as handles by number on the form."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QPainter, QPen

from ...core.errors import Refused
from ...core.job.route import Row
from ...core.operations.registry import known_entry
from ...core.parameters.vector import Points
from ..theme import font, theme
from .layer import FormLayer, FormScene

if TYPE_CHECKING:
    from ..session import Session

RADIUS = 4.5
"""Of a handle, in pixels."""


class PointHandles(FormLayer):
    order = 65

    def paint(self, painter: QPainter, scene: FormScene) -> None:
        points = points_of(scene.session)
        if not len(points):
            return
        painter.setPen(QPen(QColor(theme().curve), 1.6))
        painter.setBrush(QColor(theme().form_paper))
        painter.setFont(font(11, bold=True))
        for number, (x, y) in enumerate(scene.pixels(points), 1):
            painter.drawEllipse(QPointF(x, y), RADIUS, RADIUS)
            painter.drawText(QPointF(x + RADIUS + 3, y - RADIUS), str(number))


def parameter_of(row: Row | None) -> Points | None:
    """The value of a row that is points on the form; None where it has none, or where its reliefs are taken hold of."""
    known = known_entry(row.operation) if row is not None else None
    if known is None or "reliefs" in known.gives:
        return None
    return next((parameter for parameter in known.parameters if isinstance(parameter, Points)), None)


def points_of(session: Session) -> np.ndarray:
    """The points (n, 3) that the selected row goes through."""
    row = session.selected_row
    parameter = parameter_of(row)
    if row is None or parameter is None or session.hides(row):
        return np.zeros((0, 3))
    try:
        return np.array(parameter.resolved(parameter.written(row), session.job.numbers), float).reshape(-1, 3)
    except Refused:  # the row says so
        return np.zeros((0, 3))
