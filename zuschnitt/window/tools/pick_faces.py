"""Picks faces of the form for the selected row, and hides them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPen

from ...core.errors import Refused
from ...core.form.appearance import Looks
from ...core.job.route import Row
from ...core.operations.registry import known_entry
from ...core.parameters.picks import Faces
from ...core.wording import counted
from ..identities import picks_now
from ..stages.face_picks import of_same_body, of_same_kind, others, within
from ..stages.stage import HEAD
from ..theme import theme
from .tool import Tool

if TYPE_CHECKING:
    from ..stages.form_stage import FormStage


class PickFaces(Tool):
    words = "click a face · Shift adds · double click: the smooth chain · Ctrl drag: a frame · Enter ends"
    picks = "faces"

    def __init__(self, stage: FormStage) -> None:
        self.stage = stage
        self._frame: QPointF | None = None
        self._corner = QPointF()

    # --- what is picked ------------------------------------------------------------------------

    @property
    def ready(self) -> bool:
        """Whether the selected row has faces to be picked."""
        row = self.stage.session.selected_row
        return row is not None and faces_of(row) is not None

    def picked(self) -> tuple[int, ...]:
        """Faces that the selected row, or the blank shown, works on."""
        session, form = self.stage.session, self.stage.picture.form
        row = session.nearby("blank")
        parameter = faces_of(row) if row is not None else None
        if row is None or form is None or parameter is None:
            return ()
        known = known_entry(row.operation)
        source = known.source_of("form") if known else None
        of = session.job.source(row, source) if source is not None else None
        if of is not None and of != self.stage.form_row():
            return ()  # the form that is shown is another one, with faces of its own
        try:
            if isinstance(parameter.resolved(parameter.written(row), {}), str):
                return tuple(face.number for face in form.faces)
            return picks_now(form, row, parameter)
        except Refused:  # its row says so
            return ()

    def said(self) -> str:
        """How many are picked, in words."""
        picked, form, hidden = self.picked(), self.stage.picture.form, len(self.stage.hidden)
        if form is None:
            return ""
        words = f"{len(picked)} of {counted(len(form.faces), 'face')} picked"
        if not picked:
            words = f"{len(form.faces)} faces" if len(form.faces) > 1 else "one face"
        elif len(picked) == len(form.faces):
            words = "all faces picked" if len(picked) > 1 else "one face"
        elif len(picked) == 1 and picked[0] <= len(form.faces):
            words = f"{form.face(picked[0]).kind} picked"
        return f"{words} · {hidden} hidden, Shift+H shows" if hidden else words

    # --- the mouse -----------------------------------------------------------------------------

    def press(self, event: QMouseEvent) -> bool:
        framed = self.ready and bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        self._frame = event.position() if framed else None
        self._corner = event.position()
        return framed

    def drag(self, event: QMouseEvent) -> None:
        self._corner = event.position()

    def drop(self, event: QMouseEvent) -> None:
        """Picks the faces that lie wholly in the rectangle; Shift adds them."""
        form, start, end = self.stage.picture.form, self._frame, event.position()
        self._frame = None
        if form is None or start is None:
            return
        corners = (start.x(), start.y() - HEAD), (end.x(), end.y() - HEAD)
        found = set(within(form, self.stage.camera, self.stage.room, *corners, hidden=self.stage.hidden))
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            found |= set(self.picked())
        if found:
            self._set(sorted(found), "Pick faces in a rectangle")

    def click(self, event: QMouseEvent) -> bool:
        self._frame = None
        under = self.stage.under(event.position())
        if under is None or not self.ready:
            return False
        self.pick(under[0], add=bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        return True

    def double(self, event: QMouseEvent) -> bool:
        under, form = self.stage.under(event.position()), self.stage.picture.form
        if under is None or form is None or not self.ready:
            return False
        self._set(form.smooth_chain([under[0]]), "Pick a smooth chain")
        return True

    def paint(self, painter: QPainter) -> None:
        if self._frame is not None:
            painter.setPen(QPen(QColor(theme().form), 1.2, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self._frame, self._corner).normalized().translated(0, -HEAD))

    # --- the keys ------------------------------------------------------------------------------

    def pick(self, face: int, add: bool = False) -> None:
        """Picks a face; ``add`` adds it, or takes it away."""
        faces = set(self.picked()) ^ {face} if add else {face}
        if faces:
            self._set(sorted(faces), "Pick faces")

    def pick_all(self) -> None:
        if self.stage.picture.form is not None and self.ready:
            self._set([face.number for face in self.stage.picture.form.faces], "Pick all faces")

    def pick_same_kind(self) -> None:
        """All faces of the kinds that are picked, or of the one under the mouse."""
        if self.stage.picture.form is not None and self.ready:
            self._set(of_same_kind(self.stage.picture.form, self._start()), "Pick faces of a kind")

    def pick_same_body(self) -> None:
        """All faces of the bodies that are picked, or of the one under the mouse."""
        if self.stage.picture.form is not None and self.ready:
            self._set(of_same_body(self.stage.picture.form, self._start()), "Pick a body")

    def pick_others(self) -> None:
        form = self.stage.picture.form
        if form is not None and self.ready and (left := others(form, self.picked())):
            self._set(left, "Pick the other faces")

    def _start(self) -> list[int]:
        return [self.stage.hover] if self.stage.hover is not None else list(self.picked())

    def _set(self, faces: Sequence[int], what: str) -> None:
        row, form = self.stage.session.selected_row, self.stage.picture.form
        parameter = faces_of(row) if row is not None else None
        if row is None or form is None or parameter is None:
            return
        value = "all" if len(faces) == len(form.faces) else ", ".join(map(str, faces))
        self.stage.session.edit(what, lambda job: job.set(row.id, parameter.name, value))

    # --- hiding --------------------------------------------------------------------------------

    def hide_face(self) -> None:
        """Hides the face under the mouse; one is always left."""
        form, hover, hidden = self.stage.picture.form, self.stage.hover, self.stage.hidden
        if form is not None and hover is not None and len(hidden) + 1 < len(form.faces):
            self._hide(hidden | {hover})

    def show_faces(self) -> None:
        self._hide(frozenset())

    def _hide(self, hidden: frozenset[int]) -> None:
        row = self.stage.form_row()
        if row is not None and hidden != self.stage.hidden:
            self.stage.hover = None
            looks = replace(Looks.of(row.view), hidden=hidden)
            what = "Hide faces" if hidden else "Show all faces"
            self.stage.session.edit(what, lambda job: job.changed(row.id, view=looks.view))


def faces_of(row: Row) -> Faces | None:
    """The value of a row that holds picked faces."""
    known = known_entry(row.operation)
    return next((p for p in known.parameters if isinstance(p, Faces)), None) if known else None
