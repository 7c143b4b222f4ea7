"""What clicks and keys pick on the form: faces, edges, points and directions; and what is hidden."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QMouseEvent

from ..core.develop.blank import Blank
from ..core.errors import Refused
from ..core.looks import Looks
from ..core.operations.registry import entries
from ..core.route import Row, picked_faces
from ..core.wording import coordinates
from .camera import Camera
from .face_picks import of_same_body, of_same_kind, others, within
from .form_picture import FormPicture
from .memory import picks_now
from .session import Session
from .stage import HEAD, Stage

NEAR = 9
"""Within this many pixels a corner, an edge or a curve is meant."""


class FormPicking(Stage):
    """The part of the form stage that turns what is under the mouse into values of the selected row."""

    session: Session
    camera: Camera
    _shown: FormPicture
    _hover: int | None
    _hidden: frozenset[int]
    _frame: QPointF | None

    @property
    def _size(self) -> tuple[float, float]:
        return float(self.width()), float(self.height() - HEAD)

    def blank(self) -> Blank | None:
        """The blank that belongs to what is selected."""
        return self.session.value(self.session.nearby("blank"), "blank")

    def refresh(self) -> None:
        """Shows what the session now holds."""
        raise NotImplementedError

    def _can_pick(self) -> bool:
        row = self.session.selected_row
        wanted = self.session.wanted
        return (row is not None and row.operation == "develop") or (wanted is not None and wanted.name == "faces")

    def picked(self) -> tuple[int, ...]:
        """Faces that the selected row, or the blank shown, develops."""
        row = self.session.nearby("blank")
        if row is None or self._shown.form is None:
            return ()
        try:
            faces = picked_faces(row.parameters.get("faces", "all"))
            if isinstance(faces, str):
                return tuple(f.number for f in self._shown.form.faces)
            return picks_now(self._shown.form, row, entries()[row.operation].parameter("faces"))
        except Refused:  # its row says so
            return ()

    def _picked_words(self) -> str:
        words = self._words_of_picked()
        count = len(self._hidden)
        return f"{words} · {count} hidden, Shift+H shows" if count else words

    def _words_of_picked(self) -> str:
        picked = self.picked()
        if not picked or self._shown.form is None:
            return f"{len(self._shown.form.faces)} faces" if self._shown.form else ""
        if len(picked) == len(self._shown.form.faces):
            return "all faces picked" if len(picked) > 1 else "one face"
        if len(picked) == 1 and picked[0] <= len(self._shown.form.faces):
            return f"{self._shown.form.face(picked[0]).kind} picked"
        return f"{len(picked)} of {len(self._shown.form.faces)} faces picked"

    def _picked_edges(self) -> list[np.ndarray]:
        """Edges that the selected row names: where it cuts, or what it spans."""
        row = self.session.selected_row
        known = entries().get(row.operation) if row is not None else None
        if row is None or known is None:
            return []
        numbers: list[int] = []
        for parameter in known.parameters:
            if parameter.kind == "edges" and self._shown.form is not None:
                try:
                    numbers.extend(picks_now(self._shown.form, row, parameter))
                except Refused:  # its row says so
                    continue
        return [self._shown.edges[n] for n in numbers if n in self._shown.edges]

    def _broken_faces(self) -> tuple[int, ...]:
        row = self.session.selected_row
        state = self.session.states.get(row.id) if row else None
        return state.faces if state is not None and state.status == "broken" else ()

    def pick(self, face: int, add: bool = False) -> None:
        """Picks a face for the selected development; ``add`` adds it, or takes it away."""
        faces = set(self.picked()) if add else set()
        faces = faces ^ {face} if add else {face}
        if faces:
            self._set_faces(sorted(faces), "Pick faces")

    def pick_all(self) -> None:
        if self._shown.form is not None and self._can_pick():
            self._set_faces([face.number for face in self._shown.form.faces], "Pick all faces")

    def pick_same_kind(self) -> None:
        """All faces of the kinds that are picked, or of the one under the mouse."""
        form = self._shown.form
        if form is not None and self._can_pick():
            start = [self._hover] if self._hover is not None else list(self.picked())
            self._set_faces(of_same_kind(form, start), "Pick faces of a kind")

    def pick_same_body(self) -> None:
        """All faces of the bodies that are picked, or of the one under the mouse."""
        form = self._shown.form
        if form is not None and self._can_pick():
            start = [self._hover] if self._hover is not None else list(self.picked())
            self._set_faces(of_same_body(form, start), "Pick a body")

    def pick_others(self) -> None:
        form = self._shown.form
        if form is not None and self._can_pick() and (left := others(form, self.picked())):
            self._set_faces(left, "Pick the other faces")

    def _pick_framed(self, event: QMouseEvent) -> None:
        """Picks the faces that lie wholly in the rectangle; Shift adds them."""
        form, start, end = self._shown.form, self._frame, event.position()
        if form is None or start is None:
            return
        corners = (start.x(), start.y() - HEAD), (end.x(), end.y() - HEAD)
        found = set(within(form, self.camera, self._size, *corners, hidden=self._hidden))
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            found |= set(self.picked())
        if found:
            self._set_faces(sorted(found), "Pick faces in a rectangle")

    def _set_faces(self, faces, what: str) -> None:
        row = self.session.selected_row
        if row is None or self._shown.form is None:
            return
        every = len(faces) == len(self._shown.form.faces)
        value = "all" if every else ", ".join(map(str, faces))
        self.session.edit(what, lambda job: job.set(row.id, "faces", value))

    def _select_developing(self, face: int) -> None:
        """A click on a face, while another row is selected, goes to the row that develops it."""
        form_row = self.session.nearby("form")
        for row in self.session.job.rows:
            if row.operation == "develop" and form_row in self.session.job.sources(row):
                blank = self.session.value(row, "blank")
                if blank is not None and face in blank.faces:
                    self.session.select(row.id)
                    return

    def hide_face(self) -> None:
        """Hides the face under the mouse; one is always left."""
        form = self._shown.form
        if form is not None and self._hover is not None and len(self._hidden) + 1 < len(form.faces):
            self._hide(self._hidden | {self._hover})

    def show_faces(self) -> None:
        self._hide(frozenset())

    def _hide(self, hidden: frozenset[int]) -> None:
        row = self._form_row()
        if row is not None and hidden != self._hidden:
            self._hover = None
            looks = replace(Looks.of(row.view), hidden=hidden)
            self.session.edit(
                "Hide faces" if hidden else "Show all faces", lambda j: j.changed(row.id, view=looks.view)
            )

    def _form_row(self) -> Row | None:
        """The row whose form is shown."""
        raise NotImplementedError

    def _toggle_edge(self, row_id: str, name: str, position: QPointF) -> None:
        """Takes the edge under the mouse, or leaves it where it was taken."""
        here = np.array([position.x(), position.y() - HEAD])
        gaps = {
            number: np.hypot(*(self.camera.project(points, self._size) - here).T).min()
            for number, points in self._shown.edges.items()
        }
        number = min(gaps, key=lambda n: gaps[n], default=0)
        row = self.session.row(row_id)
        if row is None or self._shown.form is None or not number or gaps[number] > NEAR:
            return
        try:
            before = picks_now(self._shown.form, row, entries()[row.operation].parameter(name))
        except Refused:  # some are not there any more: they are picked anew
            before = ()
        taken = set(before) ^ {number}
        self.session.edit("Pick edges", lambda job: job.set(row_id, name, ", ".join(map(str, sorted(taken)))))

    def _add_point(self, row_id: str, name: str, position: QPointF, point: np.ndarray | None) -> None:
        """Adds the point under the mouse; corners and edges catch it."""
        row = self.session.row(row_id)
        here = np.array([position.x(), position.y() - HEAD])
        on_edge = self._edge_point(here)
        caught = point if on_edge is None else on_edge
        if row is None or caught is None:
            return
        caught = self._caught(here, caught)
        before = str(row.parameters.get(name, "")).strip()
        text = coordinates(caught)
        self.session.edit("Click a point", lambda job: job.set(row_id, name, f"{before}; {text}" if before else text))

    def _edge_point(self, here: np.ndarray) -> np.ndarray | None:
        """The point (3,) of an edge that is near to a pixel (2,); None where there is none."""
        best, found = float(NEAR), None
        for points in self._shown.edges.values():
            pixels = self.camera.project(points, self._size)
            step = np.diff(pixels, axis=0)
            length = np.maximum((step**2).sum(axis=1), 1e-12)
            part = np.clip(((here - pixels[:-1]) * step).sum(axis=1) / length, 0, 1)
            gaps = np.hypot(*(pixels[:-1] + part[:, None] * step - here).T)
            k = int(gaps.argmin()) if len(gaps) else 0
            if len(gaps) and gaps[k] < best:
                best, found = float(gaps[k]), points[k] + part[k] * (points[k + 1] - points[k])
        return found

    def _give_point(self, row_id: str, name: str, position: QPointF, point: np.ndarray) -> None:
        here = np.array([position.x(), position.y() - HEAD])
        if name == "hold":
            point = self._caught(here, point)
            value = point
        else:
            value = self._direction(here, point)
        text = ", ".join(f"{v:.4f}".rstrip("0").rstrip(".").replace("-0", "0") if abs(v) < 5e-5 else
                         f"{v:.4f}".rstrip("0").rstrip(".") for v in value)  # fmt: skip
        self.session.want(None)
        self.session.edit(f"Set {name}", lambda job: job.set(row_id, name, text))

    def _caught(self, here: np.ndarray, point: np.ndarray) -> np.ndarray:
        """A corner of the form near the click, or else the point itself."""
        ends = np.vstack([p[[0, -1]] for p in self._shown.edges.values()] or [point[None]])
        gaps = np.hypot(*(self.camera.project(ends, self._size) - here).T)
        return ends[gaps.argmin()] if gaps.min() < NEAR else point

    def _direction(self, here: np.ndarray, point: np.ndarray) -> np.ndarray:
        """Along the edge under the click, or else from the hold point to the click."""
        best, direction = NEAR, None
        for points in self._shown.edges.values():
            gaps = np.hypot(*(self.camera.project(points, self._size) - here).T)
            k = int(gaps.argmin())
            if gaps[k] < best and len(points) > 1:
                best, direction = gaps[k], points[min(k + 1, len(points) - 1)] - points[max(k - 1, 0)]
        blank = self.blank()
        if direction is None:
            direction = point - (blank.hold_form if blank is not None else np.zeros(3))
        elif blank is not None and direction @ blank.along_form < 0:
            direction = -direction
        return direction / max(float(np.linalg.norm(direction)), 1e-12)
