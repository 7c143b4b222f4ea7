"""The form stage: the part in space, to turn, to pick from, and to drag artwork on."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, QRectF, Qt, QTimer
from PyQt6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QWheelEvent
from PyQt6.QtWidgets import QToolTip

from ...core.develop.blank import Blank
from ...core.form.appearance import Looks
from ...core.form.form import Form
from ...core.form.locator import foot
from ...core.job.route import Row
from ...core.operations.registry import entries
from ...core.wording import area as area_text
from ...core.wording import counted
from ..all_bodies import WAYS, AllBodies, all_bodies, last_forms
from ..layers.layer import FormLayer, FormScene, form_layers
from ..session import Session
from ..theme import font, theme
from ..tools.hand import Hand
from ..tools.pick_body import PickBody
from ..tools.pick_edges import PickEdges, PickFlanges
from ..tools.pick_faces import PickFaces
from ..tools.pick_points import PickDirection, PickPoint, PickPoints
from ..tools.tool import Tool
from .camera import Camera
from .form_picture import FormPicture
from .harpoon import paint_cross
from .stage import HEAD, Stage
from .stretch_colours import MAPS, paint_legend

if TYPE_CHECKING:
    from ...core.form.deviation import Held

NEAR = 9
"""Within this many pixels a corner or an edge is meant."""
VIEWS = ("corner", "front", "right", "top", "fit")
WORST = "worst"
"""What is offered besides, where two things are held against each other."""
NEARBY = 6.0
"""A place is looked at so many times nearer than the whole."""
CLICK = 4
"""A press that moves less than this, in pixels, is a click."""


class FormStage(Stage):
    """The part in space, with its layers. Left button: the tool, or it turns. Middle or right: pan. Wheel: zoom."""

    def __init__(self, session: Session) -> None:
        super().__init__("FORM", "form", [("as it is", "as it is"), *MAPS])
        self.session = session
        self.camera = Camera(np.zeros(3))
        self.picture = FormPicture()
        self.hover: int | None = None
        self.hidden: frozenset[int] = frozenset()
        self._layers = form_layers()
        self._gathered: tuple[tuple[Any, ...], AllBodies | None] = (), None
        self._pick_body = PickBody(self)
        self._shown: list[FormLayer] = []
        self.faces = PickFaces(self)
        self.hand = Hand(self)
        pickers: tuple[Tool, ...] = (
            self.faces,
            PickEdges(self),
            PickFlanges(self),
            PickPoints(self),
            PickPoint(self),
            PickDirection(self),
        )
        self._pickers = {tool.picks: tool for tool in pickers}
        self._drawn: tuple[Any, ...] = ()
        self._image: QImage | None = None
        self._stale = True
        self._moving = False
        self._slid: tuple[Any, ...] = ()
        self._looks = Looks()
        self._pressed: QPointF | None = None
        self._last = QPointF()
        self._button = Qt.MouseButton.NoButton
        self._held = self._moved = False
        self._cursor: np.ndarray | None = None
        self._rest = QTimer(self, singleShot=True, interval=140)
        self._rest.timeout.connect(self._at_rest)
        for signal in (session.selection_changed, session.job_changed, session.wanted_changed):
            signal.connect(self.refresh)
        session.seen_changed.connect(self.refresh)
        session.motion_changed.connect(self._motion)
        self.mode_changed.connect(lambda _: self.refresh())
        self.offers = VIEWS
        self.offer_taken.connect(self._take_offer)

    # --- what is shown -------------------------------------------------------------------------

    def form(self) -> Form | None:
        bodies = self.all_bodies()
        return self.session.value(self.form_row(), "form") if bodies is None else bodies.form

    def all_bodies(self) -> AllBodies | None:
        """All bodies of the job, where they are asked for and there are some."""
        way = self.session.bodies
        if not way:
            return None
        about = (way, self.session.job, *(self.session.outcome(row) for row in last_forms(self.session.job)))
        known = self._gathered[0]
        if len(known) != len(about) or any(a is not b for a, b in zip(known, about, strict=True)):
            self._gathered = about, all_bodies(self.session, way)
        return self._gathered[1]

    def blank(self) -> Blank | None:
        """The blank that belongs to what is selected."""
        if self.session.bodies:
            return None
        blank: Blank | None = self.session.value(self.session.nearby("blank"), "blank")
        return blank

    @property
    def layers(self) -> list[FormLayer]:
        """What is drawn on the form."""
        if self.session.bodies:
            return [layer for layer in self._layers if layer.of_all]
        hidden = self.session.hides_blank
        return [layer for layer in self._layers if not (hidden and layer.of_blank)]

    def form_row(self) -> Row | None:
        """The row whose form is shown: that which something is picked from, what is made of the selected artwork, or
        the one nearby."""
        wanted = self.session.wanted
        row = self.session.row(wanted.row_id) if wanted is not None else None
        source = entries()[row.operation].source_of("form") if row is not None else None
        if row is not None and source is not None:
            return self.session.job.source(row, source)
        return self.session.body_of(self.session.selected_row) or self.session.nearby("form")

    @property
    def tool(self) -> Tool:
        """What the mouse does now: it picks what a value waits for, or is the hand."""
        wanted = self.session.wanted
        row = self.session.row(wanted.row_id) if wanted is not None else None
        if self.session.bodies:
            return self._pick_body
        if row is None or wanted is None:
            return self.hand
        return self._pickers.get(self.session.job.parameter(row, wanted.name).picked, self.hand)

    @property
    def room(self) -> tuple[float, float]:
        """Width and height below the head."""
        return float(self.width()), float(self.height() - HEAD)

    def scene(self) -> FormScene | None:
        form = self.picture.form
        if form is None:
            return None
        return FormScene(self.session, form, self.blank(), self.mode, self.camera, self.room, self.picture.edges)

    def refresh(self) -> None:
        """Shows what the session now holds."""
        form, shown = self.form(), self.picture.form
        bodies = self.all_bodies()
        row = self.form_row() if bodies is None else None
        if form is not shown:
            other = shown is None or form is None or form.name != shown.name or not 1 / 3 < form.size / shown.size < 3
            self.picture.take(form)
            self.hover = None
            self.hidden = frozenset()
            if form is not None and other:
                self.fit()
        self._looks = bodies.looks if bodies is not None else Looks.of(row.view) if row is not None else Looks()
        glimpse = self.session.glimpses.get(row.id) if row and form and not self._looks.unseen else None
        if form is not None and (hidden := self._hidden(form)) != self.hidden:
            self.hidden = hidden
            self.picture.hide(hidden)
        other = self.picture.glimpse(glimpse)
        if other and glimpse is not None:
            self._moving = True
            self._rest.start()
        self.about = f"{row.name.lower()} · {self.faces.said()}" if row and form else ""
        if bodies is not None:
            self.about = f"{counted(len(bodies.rows), 'body')} of the job · {WAYS[self.session.bodies]}"
        self.about = self.session.hidden_words(row) or self.about
        self.warning = self.session.stale(row)
        scene = self.scene()
        layers = self.layers
        drawn: tuple[Any, ...] = (self.session.shown(), self.mode, self.hover, self.hidden, self._looks)
        drawn = (*drawn, self._picked(), self._broken_faces(), bool(self.session.motions), theme().dark)
        drawn = (*drawn, *(layer.key(scene) for layer in layers if scene is not None))
        self.update()
        if form is shown and drawn == self._drawn and not other:
            return
        self._drawn = drawn
        if scene is not None:
            self._colour()
            if layers != self._shown:
                self._shown = layers
                self.picture.lines.clear()
            for layer in layers:
                layer.show(self.picture.lines, scene)
            slid = tuple(layer.key(scene) for layer in layers if layer.slides)
            if form is shown and slid != self._slid:
                self._moving = True
                self._rest.start()
            self._slid = slid
            within = [found for layer in layers if (found := layer.bodies(scene)) is not None]
            self.picture.show_within(within[-1] if within else None)
        self._stale = True

    def _hidden(self, form: Form) -> frozenset[int]:
        """The faces that are not drawn; where nothing would be left, only a row that is hidden as a whole hides all."""
        every = frozenset(face.number for face in form.faces)
        if self._looks.unseen:
            return every
        return frozenset() if every <= self._looks.hidden else self._looks.hidden

    def _picked(self) -> tuple[int, ...]:
        """The faces that are picked; of all bodies those of the row that is selected."""
        bodies = self.all_bodies()
        if bodies is None:
            return self.faces.picked()
        pairs = zip(bodies.rows, bodies.form.bodies, strict=True)
        return tuple(number for row, body in pairs if row is self.session.nearby("form") for number in body.faces)

    def _broken_faces(self) -> tuple[int, ...]:
        if self.session.bodies:
            return ()
        row = self.session.selected_row
        state = self.session.states.get(row.id) if row else None
        return state.faces if state is not None and state.status == "broken" else ()

    def _colour(self) -> None:
        hover = self.hover if self.faces.ready else None
        form = self.picture.form
        tints = self._looks.tint_of_faces(form) if form is not None else {}
        blank = None if self.session.hides_blank else self.blank()
        self.picture.colour(self._picked(), self._broken_faces(), blank, self.mode, hover, tints)
        self._stale = True

    def _motion(self) -> None:
        """What is carried follows a drag."""
        scene = self.scene()
        if scene is not None:
            for layer in self.layers:
                layer.follow(self.picture.lines, scene)
        self._moving = bool(self.session.motions)
        self._rest.start()
        if not self.session.glimpses:  # else all of it is drawn with the next one
            self._stale = True
        self.update()

    # --- looking -------------------------------------------------------------------------------

    def fit(self) -> None:
        if len(self.picture.points):
            self.camera = self.camera.fitted(self.picture.points, self.room)
            self._turned()

    def look_by(self, across: float, upwards: float) -> None:
        """Turns by degrees."""
        self.camera = self.camera.turned(across, upwards)
        self._turned()

    def look(self, view: str) -> None:
        """A standard view, fitted."""
        self.camera = self.camera.seen_from(view)
        self.fit()

    def look_at_worst(self) -> None:
        """The worst place of what the selected row holds against each other, from near."""
        held = self._held_against()
        if held is not None and held.size > 0:
            self.camera = replace(self.camera, target=held.worst, scale=NEARBY * min(self.room) / held.size)
            self._turned()

    def _held_against(self) -> Held | None:
        held: Held | None = self.session.value(self.session.selected_row, "held")
        return held

    def _take_offer(self, words: str) -> None:
        if words == "fit":
            self.fit()
        elif words == WORST:
            self.look_at_worst()
        else:
            self.look(words)

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
        if len(self.picture.points) and event.oldSize().width() > 0:
            self.camera = self.camera.fitted(self.picture.points, self.room)
        self._turned()

    def paintEvent(self, event) -> None:
        now = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(now.form_paper))
        scene = self.scene()
        if scene is None:
            self._invite(painter)
            self._offers = []
            self.paint_head(painter)
            return
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(QRectF(0, HEAD, *self.room), self._picture())
        painter.save()
        painter.translate(0, HEAD)
        painter.setFont(font(11))
        for layer in self.layers:
            layer.paint(painter, scene)
        self._twin(painter)
        if self._held and self._moved:
            self.tool.paint(painter)
        painter.restore()
        self.paint_head(painter)
        if self.mode in dict(MAPS):
            paint_legend(painter, QRectF(40, HEAD + 8, min(250, self.width() - 80), 26), self.picture.limit)
        offers = VIEWS if self._held_against() is None else (WORST, *VIEWS)
        self.offers = offers if self.tool in (self.hand, self._pick_body) else ()  # another tool's words need the room
        self.paint_foot(painter, self._foot())

    def _picture(self) -> QImage:
        """Coarser while something moves, fine at rest."""
        if self._stale or self._image is None:
            ratio = self.devicePixelRatioF()
            detail = ratio if self._moving else max(2.0, ratio)
            self._image = self.picture.image(self.camera, self.room, detail, self._moving)
            self._stale = False
        return self._image

    def _invite(self, painter: QPainter) -> None:
        row = self.session.nearby("form")
        state = self.session.states.get(row.id) if row is not None else None
        if row is not None and row.id not in self.session.pending and state is not None and state.reason:
            self.paint_invitation(painter, "No form yet", self.session.words(state.reason))
        elif row is not None:
            self.paint_invitation(painter, "The form is on its way", "It is being computed.")
        elif any("form" in each.gives for each in self.session.job.rows):
            self.paint_invitation(painter, "No form here", "The selected row works on a drawing alone.")
        else:
            self.paint_invitation(
                painter, "Begin with a form", "Press N and choose Bring in for a STEP file, or build one from numbers."
            )

    def _twin(self, painter: QPainter) -> None:
        at, blank = self.session.cursor_blank, self.blank()
        if at is None or blank is None:
            return
        if self._cursor is None:  # the mouse is on the blank; its point on the form is shown here
            located = blank.correspondence.to_form(at)
            if located.inside[0]:
                x, y = self.pixels(located.points)[0]
                paint_cross(painter, QPointF(x, y), theme().blank)
        else:
            x, y = self.pixels(self._cursor)[0]
            gap = float(blank.region.distance(at.reshape(1, 2))[0])
            paint_cross(
                painter,
                QPointF(x, y),
                theme().form,
                self.session.words(f"{gap:.1f} mm to the edge"),
                theme().form_paper,
            )

    def _foot(self) -> str:
        bodies = self.all_bodies()
        if bodies is not None and self.hover is not None:
            row = bodies.row_of(self.hover)
            return f"row {row.number} · {row.name}"
        if self.tool is not self.hand:
            return self.tool.words
        form = self.picture.form
        if self.hover is not None and form is not None and self.hover <= len(form.faces):
            face = form.face(self.hover)
            radius = f" · radius {face.radius:g} mm" if face.radius is not None else ""
            said = f"face {face.number} · {face.kind} · {area_text(face.area)}{radius}"
            return f"{self.session.words(said)}{self._body_words(face.number)}"
        return self.hand.foot

    def _body_words(self, face: int) -> str:
        """The body of a face, where there are several."""
        form = self.picture.form
        if form is None or len(form.bodies) < 2:
            return ""
        place, body = next((k, body) for k, body in enumerate(form.bodies, 1) if face in body.faces)
        return f" · {self._looks.name(place, body)}"

    # --- what is under the mouse ---------------------------------------------------------------

    def under(self, position: QPointF) -> tuple[int, np.ndarray] | None:
        """Face number and point (3,) under a position of the widget."""
        if position.y() < HEAD:
            return None
        return self.picture.under(self.camera, position.x(), position.y() - HEAD, self.room)

    @staticmethod
    def here(position: QPointF) -> np.ndarray:
        """A position of the widget as a pixel (2,) below the head."""
        return np.array([position.x(), position.y() - HEAD])

    def pixels(self, points: np.ndarray) -> np.ndarray:
        """Pixels (n, 2), below the head, of points (n, 3)."""
        return self.camera.project(points, self.room)

    def edge_near(self, here: np.ndarray) -> int | None:
        """The number of the edge near a pixel (2,)."""
        gaps = {n: np.hypot(*(self.pixels(points) - here).T).min() for n, points in self.picture.edges.items()}
        number = min(gaps, key=lambda n: gaps[n], default=None)
        return number if number is not None and gaps[number] <= NEAR else None

    def edge_point(self, here: np.ndarray) -> np.ndarray | None:
        """The point (3,) of an edge that is near to a pixel (2,); None where there is none."""
        best, found = float(NEAR), None
        for points in self.picture.edges.values():
            pixels = self.pixels(points)
            step = np.diff(pixels, axis=0)
            length = np.maximum((step**2).sum(axis=1), 1e-12)
            part = np.clip(((here - pixels[:-1]) * step).sum(axis=1) / length, 0, 1)
            gaps = np.hypot(*(pixels[:-1] + part[:, None] * step - here).T)
            k = int(gaps.argmin()) if len(gaps) else 0
            if len(gaps) and gaps[k] < best:
                best, found = float(gaps[k]), points[k] + part[k] * (points[k + 1] - points[k])
        return found

    def edge_direction(self, here: np.ndarray) -> np.ndarray | None:
        """The direction (3,) of the edge near a pixel (2,)."""
        best, direction = float(NEAR), None
        for points in self.picture.edges.values():
            gaps = np.hypot(*(self.pixels(points) - here).T)
            k = int(gaps.argmin())
            if gaps[k] < best and len(points) > 1:
                best, direction = float(gaps[k]), points[min(k + 1, len(points) - 1)] - points[max(k - 1, 0)]
        return direction

    def place(self, position: QPointF) -> np.ndarray | None:
        """The point (3,) of the form under a position of the widget; edges catch it."""
        caught, under = self.edge_point(self.here(position)), self.under(position)
        return caught if caught is not None else under[1] if under is not None else None

    def on_surface(self, point: np.ndarray) -> np.ndarray:
        """The point (3,) of the true surfaces that is meant by one of what is drawn."""
        form = self.form()
        return point if form is None else foot(form, point)[1]

    def caught(self, here: np.ndarray, point: np.ndarray) -> np.ndarray:
        """A corner of the form near a pixel (2,), or else the point (3,) itself."""
        ends = np.vstack([p[[0, -1]] for p in self.picture.edges.values()] or [point[None]])
        gaps = np.hypot(*(self.pixels(ends) - here).T)
        return ends[gaps.argmin()] if gaps.min() < NEAR else point

    # --- the mouse and the keys ----------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        if self.head_pressed(event):
            return
        self._pressed = self._last = event.position()
        self._button = event.button()
        self._moved = False
        self._held = self._button == Qt.MouseButton.LeftButton and self.tool.press(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        position = event.position()
        step, self._last = position - self._last, position
        if self._pressed is None:
            self._hovered(position)
            return
        self._moved = self._moved or (position - self._pressed).manhattanLength() > CLICK
        if self._button in (Qt.MouseButton.RightButton, Qt.MouseButton.MiddleButton):
            self.camera = self.camera.moved(step.x(), step.y())
            self._turned()
        elif self._held:
            if self._moved:
                self.tool.drag(event)
            self.update()
        elif self._button == Qt.MouseButton.LeftButton and self._moved:
            self.look_by(-0.45 * step.x(), 0.45 * step.y())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, self._pressed = self._pressed, None
        if pressed is None:
            return
        if self._held and self._moved:
            self.tool.drop(event)
        elif not self._moved and event.button() == Qt.MouseButton.LeftButton:
            self.tool.click(event)
        self._held = False
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.tool.double(event)

    def _hovered(self, position: QPointF) -> None:
        under, blank = self.under(position), self.blank()
        face = under[0] if under else None
        cursor = None
        self._cursor = None
        if under is not None and blank is not None and under[0] in blank.faces:
            cursor = blank.correspondence.to_blank(under[1], [under[0]]).points[0]
            self._cursor = under[1]
        self.session.cursor_blank = cursor
        if face != self.hover:
            self.hover = face
            if self.picture.form is not None and self.faces.ready:
                self._colour()
        tip = self.head_tip(position)
        if tip:
            QToolTip.showText(self.mapToGlobal(QPoint(int(position.x()), int(position.y()))), tip, self)
        self.update()
        self.session.cursor_changed.emit()

    def leaveEvent(self, event) -> None:
        self.hover, self._cursor = None, None
        self.session.cursor_blank = None
        if self.picture.form is not None:
            self._colour()
        self.update()
        self.session.cursor_changed.emit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        factor = 1.0015 ** event.angleDelta().y()
        self.camera = self.camera.zoomed(factor, event.position().x(), event.position().y() - HEAD, self.room)
        self._turned()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {
            Qt.Key.Key_Left: (-5, 0), Qt.Key.Key_Right: (5, 0), Qt.Key.Key_Up: (0, 5), Qt.Key.Key_Down: (0, -5),
        }  # fmt: skip
        if self.tool.key(event):
            return
        if event.key() in steps:
            self.look_by(*steps[Qt.Key(event.key())])
        elif event.key() in (Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            factor = 1.2 if event.key() == Qt.Key.Key_Plus else 1 / 1.2
            self.camera = self.camera.zoomed(factor, self.width() / 2, self.room[1] / 2, self.room)
            self._turned()
        elif event.key() in (Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.session.wanted:
            self.session.want(None)
        else:
            super().keyPressEvent(event)
