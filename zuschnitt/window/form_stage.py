"""The form stage: the part in space, to turn, to pick from, and to drag artwork on."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, QRectF, Qt, QTimer
from PyQt6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPen, QWheelEvent
from PyQt6.QtWidgets import QToolTip

from ..core.develop.blank import Blank
from ..core.develop.strokes import strokes
from ..core.form.form import Form
from ..core.operations.registry import Parameter, entries
from ..core.route import Row
from ..core.wording import area as area_text
from .camera import Camera
from .carried import curves_on_form, shown_reliefs
from .form_picking import NEAR, FormPicking
from .form_picture import FormPicture
from .harpoon import paint_cross, paint_harpoon
from .session import Motion, Session
from .stage import HEAD
from .stretch_colours import MAPS, paint_legend
from .theme import font, theme

CLICK = 4
"""A press that moves less than this, in pixels, is a click."""


class FormStage(FormPicking):
    """Left button: click to pick, drag to turn, or to move artwork. Middle or right: pan. Wheel: zoom."""

    def __init__(self, session: Session) -> None:
        super().__init__("FORM", "form", [("as it is", "as it is"), *MAPS])
        self.session = session
        self.camera = Camera(np.zeros(3))
        self._shown = FormPicture()
        self._picture: QImage | None = None
        self._stale = True
        self._moving = False
        self._pressed: QPointF | None = None
        self._last = QPointF()
        self._button = Qt.MouseButton.NoButton
        self._turning = False
        self._carried: tuple[str, np.ndarray] | None = None
        self._hover: int | None = None
        self._cursor: np.ndarray | None = None
        self._hidden: frozenset[int] = frozenset()
        self._frame: QPointF | None = None
        self._rest = QTimer(self, singleShot=True, interval=140)
        self._rest.timeout.connect(self._at_rest)
        for signal in (session.selection_changed, session.job_changed, session.wanted_changed):
            signal.connect(self.refresh)
        session.row_changed.connect(lambda _: self.refresh())
        session.motion_changed.connect(self._motion)
        self.mode_changed.connect(lambda _: self.refresh())
        self.offers = ("askew", "front", "right", "top", "fit")
        self.offer_taken.connect(lambda words: self.fit() if words == "fit" else self.look(words))

    # --- what is shown -------------------------------------------------------------------------

    def form(self) -> Form | None:
        return self.session.value(self._form_row(), "form")

    def _form_row(self) -> Row | None:
        """The row whose form is shown: that which something is picked from, or the one nearby."""
        wanted = self._wanted_parameter()
        row = self.session.row(self.session.wanted.row_id) if self.session.wanted is not None else None
        if row is not None and wanted is not None:
            known = entries()[row.operation]
            source = next((p for p in known.parameters if p.kind == "source" and "form" in p.accepts), None)
            if source is not None:
                return self.session.job.source(row, source)
        return self.session.nearby("form")

    def _wanted_parameter(self) -> Parameter | None:
        """What waits for a click on the form."""
        wanted = self.session.wanted
        row = self.session.row(wanted.row_id) if wanted is not None else None
        return entries()[row.operation].parameter(wanted.name) if row is not None and wanted is not None else None

    def refresh(self) -> None:
        """Shows what the session now holds."""
        form = self.form()
        shown = self._shown.form
        if form is not shown:
            other = shown is None or form is None or form.name != shown.name or not 1 / 3 < form.size / shown.size < 3
            self._shown.take(form)
            self._hover = None
            kept = shown is not None and form is not None and form.name == shown.name
            self._hidden = frozenset(n for n in self._hidden if kept and form is not None and n <= len(form.faces))
            if self._hidden:
                self._shown.hide(self._hidden)
            if form is not None and other:
                self.fit()
        row = self._form_row()
        self.about = f"{row.name.lower()} · {self._picked_words()}" if row and form else ""
        self.warning = self.session.stale(row)
        if form is not None:
            self._colour()
            self._shown.lines(self.blank())
            self._shown.curves(*curves_on_form(self.session, self.blank()))
            self._shown.marks(
                [points for _, points in shown_reliefs(self.session)], self._picked_edges(), self._strokes()
            )
        self._stale = True
        self.update()

    def _strokes(self) -> np.ndarray:
        """Strokes (s, 2, 3) along the larger principal stretch, in the modes of a map."""
        blank = self.blank()
        if self.mode not in dict(MAPS) or blank is None or blank.mesh is None:
            return np.zeros((0, 2, 3))
        found = strokes(blank.mesh)
        half = found.along_form * self._shown.form.size / 110 if self._shown.form is not None else found.along_form
        return np.stack([found.points_form - half, found.points_form + half], axis=1)

    def _colour(self) -> None:
        hover = self._hover if self._can_pick() else None
        self._shown.colour(self.picked(), self._broken_faces(), self.blank(), self.mode, hover)

    def _motion(self) -> None:
        """The carried curves follow a drag."""
        self._shown.curves(*curves_on_form(self.session, self.blank()))
        self._moving = bool(self.session.motions)
        self._rest.start()
        self._stale = True
        self.update()

    # --- looking -------------------------------------------------------------------------------

    def fit(self) -> None:
        if len(self._shown.points):
            self.camera = self.camera.fitted(self._shown.points, self._size)
            self._turned()

    def look_by(self, across: float, upwards: float) -> None:
        """Turns by degrees."""
        self.camera = self.camera.turned(across, upwards)
        self._turned()

    def look(self, view: str) -> None:
        """A standard view, fitted."""
        self.camera = self.camera.seen_from(view)
        self.fit()

    def _turned(self) -> None:
        self._moving = True
        self._rest.start()
        self._stale = True
        self.update()

    def _at_rest(self) -> None:
        self._moving = False
        self._stale = True
        self.update()

    def resizeEvent(self, event) -> None:
        if len(self._shown.points):
            old = event.oldSize()
            if old.width() > 0:
                self.camera = self.camera.fitted(self._shown.points, self._size)
        self._turned()

    def paintEvent(self, event) -> None:
        now = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(now.form_paper))
        if self._shown.form is None:
            self._invite(painter)
            self._offers = []
            self.paint_head(painter)
            return
        if self._stale or self._picture is None:
            self._render()
        assert self._picture is not None
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(QRectF(0, HEAD, *self._size), self._picture)
        painter.save()
        painter.translate(0, HEAD)
        self._overlay(painter)
        painter.restore()
        self.paint_head(painter)
        if self.mode in dict(MAPS):
            paint_legend(painter, QRectF(40, HEAD + 8, min(250, self.width() - 80), 26), self._shown.limit)
        self.paint_foot(painter, self._foot())

    def _render(self) -> None:
        """Coarser while something moves, fine at rest."""
        ratio = self.devicePixelRatioF()
        self._picture = self._shown.image(self.camera, self._size, ratio if self._moving else max(2.0, ratio))
        self._stale = False

    def _invite(self, painter: QPainter) -> None:
        row = self.session.nearby("form")
        if row is not None and (row.id in self.session.pending or not self.session.idle):
            self.paint_invitation(painter, "The form is on its way", "It is being computed.")
        elif row is not None:
            self.paint_invitation(
                painter, "No form yet", self.session.states[row.id].reason if row.id in self.session.states else ""
            )
        else:
            self.paint_invitation(
                painter, "Begin with a form", "Press N and choose Bring in for a STEP file, or build one from numbers."
            )

    def _overlay(self, painter: QPainter) -> None:
        now = theme()
        blank = self.blank()
        painter.setFont(font(11))
        if blank is not None:
            origin, along, normal = blank.hold_form, blank.along_form, blank.normal_form
            length = 52 / self.camera.scale
            across = np.cross(normal, along)
            at = self.camera.project(np.array([origin, origin + along * length, origin + across * length]), self._size)
            outer = bool(normal @ self.camera.axes[2] > 0)
            paint_harpoon(painter, at[0], at[1] - at[0], at[2] - at[0], now.form, now.form_paper, outer)
        if self.session.cursor_blank is not None and blank is not None:
            self._twin(painter, blank)
        if self._frame is not None and self._turning:
            painter.setPen(QPen(QColor(now.form), 1.2, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self._frame, self._last).normalized().translated(0, -HEAD))

    def _twin(self, painter: QPainter, blank: Blank) -> None:
        at = self.session.cursor_blank
        assert at is not None
        if self._cursor is None:  # the mouse is on the blank; its point on the form is shown here
            located = blank.correspondence.to_form(at)
            if not located.inside[0]:
                return
            x, y = self.camera.project(located.points, self._size)[0]
            paint_cross(painter, QPointF(x, y), theme().blank)
        else:
            x, y = self.camera.project(self._cursor, self._size)[0]
            gap = float(blank.region.distance(at.reshape(1, 2))[0])
            paint_cross(painter, QPointF(x, y), theme().form, f"{gap:.1f} mm to the edge", theme().form_paper)

    def _foot(self) -> str:
        wanted = self.session.wanted
        if wanted is not None:
            parameter = self._wanted_parameter()
            kind = parameter.kind if parameter is not None and wanted.name != "hold" else ""
            return {
                "faces": "click a face · Shift adds · double click: the smooth chain · Ctrl drag: a frame · Enter ends",
                "edges": "click an edge to take it or to leave it · Enter ends",
                "points": "click points one after the other; corners catch · Enter ends",
                "vector": "click an edge, or a point to head for · Esc leaves it as it is",
            }.get(
                kind if wanted.name != "hold" else "", "click the point to hold; corners catch · Esc leaves it as it is"
            )
        if self._hover is not None and self._shown.form is not None and self._hover <= len(self._shown.form.faces):
            face = self._shown.form.face(self._hover)
            radius = f" · radius {face.radius:g} mm" if face.radius is not None else ""
            return f"face {face.number} · {face.kind} · {area_text(face.area)}{radius}"
        return "drag turns · right drag moves"

    # --- the mouse -----------------------------------------------------------------------------

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
            self._carried = self._artwork_under(event.position())
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
        elif self._carried is not None and (moved or self._turning):
            self._turning = True
            self._carry(position)
        elif self._button == Qt.MouseButton.LeftButton and (moved or self._turning):
            self._turning = True
            self.look_by(-0.45 * step.x(), 0.45 * step.y())

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
        elif not self._turning and event.button() == Qt.MouseButton.LeftButton:
            self._clicked(event)
        self._carried = self._frame = None

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
