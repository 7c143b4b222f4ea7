"""The mouse and the keys on the form stage: looking round, picking, moving artwork and reliefs."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QWheelEvent
from PyQt6.QtWidgets import QToolTip

from ..core.operations.registry import Parameter
from ..core.route import Job
from .form_picking import NEAR, FormPicking
from .relief_ends import ReliefGrip, grip_at, relief_ends, with_moved
from .session import Motion
from .stage import HEAD

CLICK = 4
"""A press that moves less than this, in pixels, is a click."""


class FormHand(FormPicking):
    """Left button: click to pick, drag to turn, or to move artwork or a relief. Middle or right: pan. Wheel: zoom."""

    _pressed: QPointF | None = None
    _last = QPointF()
    _button = Qt.MouseButton.NoButton
    _turning = False
    _carried: tuple[str, np.ndarray] | None = None
    _relief: ReliefGrip | None = None
    _cursor: np.ndarray | None = None
    _stale = True

    def look_by(self, across: float, upwards: float) -> None:
        """Turns by degrees."""
        raise NotImplementedError

    def _turned(self) -> None:
        """The form is seen otherwise now."""
        raise NotImplementedError

    def _colour(self) -> None:
        """The faces' colours are other ones now."""
        raise NotImplementedError

    def _wanted_parameter(self) -> Parameter | None:
        """What waits for a click on the form."""
        raise NotImplementedError

    def _under(self, position: QPointF) -> tuple[int, np.ndarray] | None:
        """Face number and point (3,) under a position of the widget."""
        if position.y() < HEAD:
            return None
        return self._shown.under(self.camera, position.x(), position.y() - HEAD, self._size)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        if self.head_pressed(event):
            return
        self._pressed = self._last = event.position()
        self._button = event.button()
        self._turning = False
        self._carried = None
        self._frame = None
        if self._button == Qt.MouseButton.LeftButton and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self._frame = event.position() if self._can_pick() else None
        elif self._button == Qt.MouseButton.LeftButton and self.session.wanted is None:
            here = np.array([event.position().x(), event.position().y() - HEAD])
            self._relief = grip_at(relief_ends(self.session), self._pixels, here, NEAR)
            self._carried = self._artwork_under(event.position()) if self._relief is None else None
            if self._carried is not None:
                self.session.select(self._carried[0])

    def _artwork_under(self, position: QPointF) -> tuple[str, np.ndarray] | None:
        """The artwork row whose wrapped curve is under the mouse, and the blank point there."""
        under = self._under(position)
        blank = self.blank()
        if under is None or blank is None:
            return None
        here = np.array([position.x(), position.y() - HEAD])
        for row in self.session.on_blank("wrapped"):
            for curve in self.session.value(row, "wrapped") or ():
                pixels = self.camera.project(curve.form[curve.inside], self._size)
                if len(pixels) and np.hypot(*(pixels - here).T).min() < NEAR:
                    art = next((r for r in self.session.job.sources(row) if r.operation == "place_artwork"), None)
                    if art is not None:
                        return art.id, blank.correspondence.to_blank(under[1]).points[0]
        return None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        position = event.position()
        step, self._last = position - self._last, position
        if self._pressed is None:
            self._hovered(position)
            return
        moved = (position - self._pressed).manhattanLength() > CLICK
        if self._frame is not None:
            self._turning = self._turning or moved
            self.update()
        elif self._button in (Qt.MouseButton.RightButton, Qt.MouseButton.MiddleButton):
            self.camera = self.camera.moved(step.x(), step.y())
            self._turned()
        elif self._relief is not None:
            self._turning = self._turning or moved
            self._drag_relief(position)
        elif self._carried is not None and (moved or self._turning):
            self._turning = True
            self._carry(position)
        elif self._button == Qt.MouseButton.LeftButton and (moved or self._turning):
            self._turning = True
            self.look_by(-0.45 * step.x(), 0.45 * step.y())

    def _pixels(self, points: np.ndarray) -> np.ndarray:
        """Pixels (n, 2), below the head, of points (n, 3)."""
        return self.camera.project(points, self._size)

    def _drag_relief(self, position: QPointF) -> None:
        """Takes the end of a relief to the mouse; edges catch it."""
        caught = self._edge_point(np.array([position.x(), position.y() - HEAD]))
        under = self._under(position)
        point = caught if caught is not None else under[1] if under is not None else None
        if self._relief is not None and point is not None:
            self._relief = self._relief.at(point)
            self.update()

    def _drop_relief(self) -> None:
        """The row that keeps where it was dragged to, selected."""
        grip, row = self._relief, self.session.selected_row
        if grip is None or row is None:
            return
        made = [row.id]

        def edit(job: Job) -> Job:
            job, made[0] = with_moved(job, row, grip)
            return job

        if self.session.edit("Move a relief", edit):
            self.session.select(made[0])

    def _carry(self, position: QPointF) -> None:
        blank, under = self.blank(), self._under(position)
        if blank is None or under is None or self._carried is None:
            return
        row_id, start = self._carried
        here = blank.correspondence.to_blank(under[1])
        if here.inside[0]:
            shift = here.points[0] - start
            self.session.drag(row_id, Motion(shift=(float(shift[0]), float(shift[1]))))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, self._pressed = self._pressed, None
        if pressed is None:
            return
        if self._frame is not None and self._turning:
            self._pick_framed(event)
        elif self._carried is not None and self._turning:
            self.session.drop(self._carried[0])
        elif self._relief is not None and self._turning:
            self._drop_relief()
        elif not self._turning and event.button() == Qt.MouseButton.LeftButton:
            self._clicked(event)
        self._carried = self._frame = self._relief = None
        self.update()

    def _clicked(self, event: QMouseEvent) -> None:
        under = self._under(event.position())
        wanted, parameter = self.session.wanted, self._wanted_parameter()
        if wanted is not None and parameter is not None and parameter.kind == "edges":
            self._toggle_edge(wanted.row_id, wanted.name, event.position())
            return
        if wanted is not None and parameter is not None and parameter.kind == "points":
            self._add_point(wanted.row_id, wanted.name, event.position(), None if under is None else under[1])
            return
        if wanted is not None and parameter is not None and parameter.kind == "vector":
            if under is not None:
                self._give_point(wanted.row_id, wanted.name, event.position(), under[1])
            return
        if under is None or self._carried is not None:
            return
        if self._can_pick():
            self.pick(under[0], add=bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        else:
            self._select_developing(under[0])

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        under = self._under(event.position())
        if under is not None and self._can_pick() and self._shown.form is not None:
            self._set_faces(self._shown.form.smooth_chain([under[0]]), "Pick a smooth chain")

    def _hovered(self, position: QPointF) -> None:
        under = self._under(position)
        face = under[0] if under else None
        blank = self.blank()
        cursor = None
        self._cursor = None
        if under is not None and blank is not None and under[0] in blank.faces:
            cursor = blank.correspondence.to_blank(under[1], [under[0]]).points[0]
            self._cursor = under[1]
        self.session.cursor_blank = cursor
        if face != self._hover:
            self._hover = face
            if self._shown.form is not None and self._can_pick():
                self._colour()
                self._stale = True
        tip = self.head_tip(position)
        if tip:
            QToolTip.showText(self.mapToGlobal(QPoint(int(position.x()), int(position.y()))), tip, self)
        self.update()
        self.session.cursor_changed.emit()

    def leaveEvent(self, event) -> None:
        self._hover, self._cursor = None, None
        self.session.cursor_blank = None
        if self._shown.form is not None:
            self._colour()
            self._stale = True
        self.update()
        self.session.cursor_changed.emit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        factor = 1.0015 ** event.angleDelta().y()
        self.camera = self.camera.zoomed(factor, event.position().x(), event.position().y() - HEAD, self._size)
        self._turned()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {
            Qt.Key.Key_Left: (-5, 0), Qt.Key.Key_Right: (5, 0), Qt.Key.Key_Up: (0, 5), Qt.Key.Key_Down: (0, -5),
        }  # fmt: skip
        if event.key() in steps:
            self.look_by(*steps[Qt.Key(event.key())])
        elif event.key() in (Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            factor = 1.2 if event.key() == Qt.Key.Key_Plus else 1 / 1.2
            self.camera = self.camera.zoomed(factor, self.width() / 2, self._size[1] / 2, self._size)
            self._turned()
        elif event.key() in (Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.session.wanted:
            self.session.want(None)
        else:
            super().keyPressEvent(event)
