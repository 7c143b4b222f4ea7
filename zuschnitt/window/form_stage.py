"""The form stage: the part in space, to turn, to pick from, and to drag artwork on."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer
from PyQt6.QtGui import QColor, QImage, QPainter, QPen

from ..core.develop.blank import Blank
from ..core.develop.strokes import strokes
from ..core.form.form import Form
from ..core.looks import Looks
from ..core.operations.registry import Parameter, entries
from ..core.route import Row
from ..core.wording import area as area_text
from .camera import Camera
from .carried import curves_on_form, shown_reliefs
from .form_hand import FormHand
from .form_picture import FormPicture
from .harpoon import paint_cross, paint_harpoon
from .relief_ends import paint_ends, relief_ends
from .session import Session
from .stage import HEAD
from .stretch_colours import MAPS, paint_legend
from .theme import font, theme


class FormStage(FormHand):
    """The part in space, with what is picked, mapped, drawn or carried on it."""

    def __init__(self, session: Session) -> None:
        super().__init__("FORM", "form", [("as it is", "as it is"), *MAPS])
        self.session = session
        self.camera = Camera(np.zeros(3))
        self._shown = FormPicture()
        self._drawn: tuple = ()
        self._picture: QImage | None = None
        self._moving = False
        self._hover: int | None = None
        self._hidden: frozenset[int] = frozenset()
        self._looks = Looks()
        self._frame: QPointF | None = None
        self._rest = QTimer(self, singleShot=True, interval=140)
        self._rest.timeout.connect(self._at_rest)
        for signal in (session.selection_changed, session.job_changed, session.wanted_changed):
            signal.connect(self.refresh)
        session.seen_changed.connect(self.refresh)
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
            self._hidden = frozenset()
            if form is not None and other:
                self.fit()
        row = self._form_row()
        self._looks = Looks.of(row.view) if row is not None else Looks()
        if form is not None and (hidden := self._looks.hidden) != self._hidden:
            self._hidden = hidden if len(hidden & {f.number for f in form.faces}) < len(form.faces) else frozenset()
            self._shown.hide(self._hidden)
        self.about = f"{row.name.lower()} · {self._picked_words()}" if row and form else ""
        self.warning = self.session.stale(row)
        edges = self._picked_edges() if form is not None else []
        drawn = (self.session.shown(), self.mode, self._hover, self._hidden, self._looks, self.picked())
        drawn = (*drawn, self._broken_faces(), [id(edge) for edge in edges], bool(self.session.motions))
        self.update()
        if form is shown and drawn == self._drawn:
            return
        self._drawn = drawn
        if form is not None:
            self._colour()
            self._shown.lines(self.blank())
            self._shown.curves(*curves_on_form(self.session, self.blank()))
            self._shown.marks([points for _, points in shown_reliefs(self.session)], edges, self._strokes())
        self._stale = True

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
        form = self._shown.form
        tints = self._looks.tint_of_faces(form) if form is not None else {}
        self._shown.colour(self.picked(), self._broken_faces(), self.blank(), self.mode, hover, tints)

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
        paint_ends(painter, relief_ends(self.session), self._pixels, self._relief if self._turning else None)
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
            return f"face {face.number} · {face.kind} · {area_text(face.area)}{radius}{self._body_words(face.number)}"
        if relief_ends(self.session):
            return "drag the end of a relief to move it · drag turns"
        return "drag turns · right drag moves"

    def _body_words(self, face: int) -> str:
        """The body of a face, where there are several."""
        form = self._shown.form
        if form is None or len(form.bodies) < 2:
            return ""
        place, body = next((k, body) for k, body in enumerate(form.bodies, 1) if face in body.faces)
        return f" · {self._looks.name(place, body)}"
