"""Takes curves of a drawing away, and brings them back: by a click, or by a box round them."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPen

from ...core.operations.registry import known_entry
from ...core.parameters.plane_points import PickedCurves
from ...core.plane.sorting import nearest, point_of
from ...core.results.thinned import ThinnedResult
from ..drawing import written
from ..layers.carried_artwork import divided
from ..layers.plain_drawing import thinned_of
from ..theme import theme
from .tool import Tool

if TYPE_CHECKING:
    from ..stages.blank_stage import BlankStage

REACH = 8.0
"""Within this many pixels a curve is meant."""


class PickCurves(Tool):
    alone = True
    words = "a click or a box takes curves away (Ctrl: what it touches)"

    def __init__(self, stage: BlankStage) -> None:
        self.stage, self.session = stage, stage.session
        self._box: tuple[QPointF, QPointF] | None = None
        self._lines: tuple[ThinnedResult, np.ndarray, np.ndarray] | None = None

    @property
    def parameter(self) -> PickedCurves | None:
        """The value of the selected row that says which curves are meant."""
        row = self.session.selected_row
        known = known_entry(row.operation) if row is not None else None
        return next((p for p in known.parameters if isinstance(p, PickedCurves)), None) if known else None

    @property
    def ready(self) -> bool:
        return self.parameter is not None and thinned_of(self.session) is not None

    def press(self, event: QMouseEvent) -> bool:
        self._box = (event.position(), event.position())
        return True

    def drag(self, event: QMouseEvent) -> None:
        if self._box is not None:
            self._box = (self._box[0], event.position())

    def drop(self, event: QMouseEvent) -> None:
        """All curves in the box go."""
        box, self._box, made = self._box, None, thinned_of(self.session)
        if box is None or made is None:
            return
        low, high = np.sort([self.stage.view.to_blank(corner) for corner in box], axis=0)
        points, owner = self._points(made)
        inside = ((points >= low) & (points <= high)).all(axis=1)
        count = np.bincount(owner, minlength=len(made.value) + len(made.away))
        within = np.bincount(owner[inside], minlength=len(count))
        touched = within > 0 if event.modifiers() & Qt.KeyboardModifier.ControlModifier else within == count
        self._change(made, [k for k in np.nonzero(touched)[0].tolist() if k < len(made.value)])

    def click(self, event: QMouseEvent) -> bool:
        """The curve under the mouse goes; one that is gone comes back."""
        self._box, made = None, thinned_of(self.session)
        if made is None:
            return True
        points, owner = self._points(made)
        gaps = np.linalg.norm(points - self.stage.view.to_blank(event.position()), axis=1)
        nearest = int(gaps.argmin())
        if gaps[nearest] * self.stage.view.scale < REACH:
            self._change(made, [int(owner[nearest])])
        return True

    def paint(self, painter: QPainter) -> None:
        if self._box is not None and self._box[0] != self._box[1]:
            painter.setPen(QPen(QColor(theme().ink), 1, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(*self._box).normalized())

    def _points(self, made: ThinnedResult) -> tuple[np.ndarray, np.ndarray]:
        """Points (n, 2) along all curves, those taken away last, a few pixels apart, and the curve of each."""
        if self._lines is None or self._lines[0] is not made:
            fine = REACH / 2 / self.stage.view.scale
            lines = divided((*made.value, *made.away), fine, fine / 2)
            owner = np.repeat(np.arange(len(lines)), [len(line) for line in lines])
            self._lines = made, np.vstack(lines), owner
        return self._lines[1:]

    def _change(self, made: ThinnedResult, curves: list[int]) -> None:
        """Takes curves away by a point of each, or brings back those that are gone."""
        row, parameter = self.session.selected_row, self.parameter
        if row is None or parameter is None or not curves:
            return
        parts = parameter.parts(parameter.written(row))
        every = (*made.value, *made.away)
        back = {k for k in curves if k >= len(made.value)}
        if back:
            points = np.array(parameter.resolved(parameter.written(row), self.session.job.numbers)).reshape(-1, 2)
            parts = [part for part, k in zip(parts, nearest(every, points), strict=True) if k not in back]
        parts += [", ".join(map(written, point_of(every[k]))) for k in curves if k not in back]
        words = "Bring curves back" if back else "Take curves away"
        value, name = "; ".join(parts), parameter.name
        self.session.edit(words, lambda job: job.set(row.id, name, value))
