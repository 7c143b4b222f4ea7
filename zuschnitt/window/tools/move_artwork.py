"""Moves, turns and scales artwork: on the blank by its handles, on the form by its curves."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPen

from ...core.job.route import Job, Row
from ...core.plane.region import Region
from ...core.results.artwork import ArtworkResult
from ..drawing import grain_of, written
from ..layers.handles import frame_of, held, in_row, movable, numbers_of
from ..layers.paths import polygon
from ..motion import Motion
from ..session import Session, glimpsed
from ..theme import theme
from .grips import Grip, motion_of, row_of
from .tool import Tool

if TYPE_CHECKING:
    from ..stages.blank_stage import BlankStage
    from ..stages.form_stage import FormStage

ROUGH = 0.05
"""Outlines are flattened to this, in mm, to ask what is under the mouse."""
MOST_IN_A_ROW = 100
"""No more are put in a row by dragging."""
NEAR = 9
"""Within this many pixels a curve is meant."""
ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
SHAPES = {
    "move": Qt.CursorShape.SizeAllCursor,
    "turn": Qt.CursorShape.PointingHandCursor,
    "scale": Qt.CursorShape.SizeFDiagCursor,
    "stretch_x": Qt.CursorShape.SizeHorCursor,
    "stretch_y": Qt.CursorShape.SizeVerCursor,
    "more": Qt.CursorShape.DragCopyCursor,
}


class MoveOnBlank(Tool):
    """Takes hold of what the layers offer; the arrow keys move the artwork that is selected.

    Bodies are also stretched along their own x and y, and put in a row by the one that is dragged out of the last.
    """

    def __init__(self, stage: BlankStage) -> None:
        self.stage = stage
        self._grip: Grip | None = None
        self._row: tuple[int, np.ndarray] | None = None

    def press(self, event: QMouseEvent) -> bool:
        self._grip, self._row = self.stage.grip_at(event.position()), None
        if self._grip is not None:
            take_hold(self.stage.session, self._grip.row_id)
        return self._grip is not None

    def drag(self, event: QMouseEvent) -> None:
        grip, session = self._grip, self.stage.session
        if grip is None:
            return
        at = self.stage.view.to_blank(event.position())
        if grip.what != "more":
            moved(session, grip.row_id, motion_of(grip, at, event.modifiers()))
            return
        self._row = self._dragged_row(grip, at, event.modifiers())
        session.glimpse(grip.row_id, self._with_row)
        self.stage.update()

    def drop(self, event: QMouseEvent) -> None:
        grip, session = self._grip, self.stage.session
        if grip is not None and grip.what != "more":
            dropped(session, grip.row_id, grain_of(self.stage.view.scale))
        elif grip is not None and (self._row is None or not session.edit("Put in a row", self._with_row)):
            session.forget_glimpse()
        self._row = None

    def click(self, event: QMouseEvent) -> bool:
        if self._grip is not None:
            self.stage.session.drag(self._grip.row_id, None)
        return self._grip is not None

    def _dragged_row(self, grip: Grip, at: np.ndarray, modifiers) -> tuple[int, np.ndarray]:
        """How many stand in a row, and how far each from the one before, as rounded as the screen is coarse."""
        row = self.stage.session.row(grip.row_id)
        assert row is not None
        count, apart = in_row(self.stage.session.job, row)
        known = apart if count > 1 else None
        first = replace(grip, start=grip.start - (count - 1) * apart)  # the handle as it was beside the first
        number, step = row_of(first, at, known, modifiers)
        grain = grain_of(self.stage.view.scale)
        return min(number, MOST_IN_A_ROW), step if known is not None else np.round(step / grain) * grain

    def _with_row(self, job: Job) -> Job:
        grip, row = self._grip, self._row
        assert grip is not None and row is not None
        if row[0] == 1:
            return job.set_many(grip.row_id, {"count": "1", "apart_x": "0", "apart_y": "0"})
        apart = {f"apart_{axis}": written(float(step), 0.0) for axis, step in zip("xy", row[1], strict=True)}
        return job.set_many(grip.row_id, {"count": str(row[0]), **apart})

    def paint(self, painter: QPainter) -> None:
        """While a row grows: where each of it will stand."""
        grip, scene = self._grip, self.stage.scene()
        row = self.stage.session.row(grip.row_id) if grip is not None and self._row is not None else None
        frame = frame_of(scene, row) if row is not None and scene is not None else None
        if frame is None or self._row is None:
            return
        painter.setPen(QPen(QColor(theme().form), 1.2, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        count, apart = self._row
        for k in range(count):
            painter.drawPolygon(polygon(self.stage.view.to_pixels(frame + k * apart)))

    def cursor(self, position: QPointF) -> Qt.CursorShape | None:
        grip = self.stage.grip_at(position)
        return SHAPES[grip.what] if grip is not None else None

    def key(self, event: QKeyEvent) -> bool:
        session, row = self.stage.session, held(self.stage.session)
        if event.key() not in ARROWS or row is None:
            return False
        far = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        x, y = ARROWS[Qt.Key(event.key())]
        session.drag(row.id, Motion(shift=(float(far * x), float(far * y))))
        dropped(session, row.id)
        return True


class MoveOnForm(Tool):
    """Takes hold of a wrapped curve, and carries its artwork along."""

    def __init__(self, stage: FormStage) -> None:
        self.stage = stage
        self._held: tuple[str, np.ndarray] | None = None

    def press(self, event: QMouseEvent) -> bool:
        self._held = self._artwork_under(event.position()) or self._raised_under(event.position())
        if self._held is not None:
            take_hold(self.stage.session, self._held[0])
        return self._held is not None

    def drag(self, event: QMouseEvent) -> None:
        blank, under = self.stage.blank(), self.stage.under(event.position())
        if blank is None or under is None or self._held is None:
            return
        row_id, start = self._held
        here = blank.correspondence.to_blank(under[1])
        if here.inside[0]:
            shift = here.points[0] - start
            moved(self.stage.session, row_id, Motion(shift=(float(shift[0]), float(shift[1]))))

    def drop(self, event: QMouseEvent) -> None:
        if self._held is not None:
            dropped(self.stage.session, self._held[0])

    def click(self, event: QMouseEvent) -> bool:
        if self._held is not None and self.stage.faces.ready:
            return self.stage.faces.click(event)
        return self._held is not None

    def _raised_under(self, position: QPointF) -> tuple[str, np.ndarray] | None:
        """The artwork of which the selected row makes a body, where that is under the mouse, and the blank point."""
        session, blank, under = self.stage.session, self.stage.blank(), self.stage.under(position)
        row = held(session)
        if row is None or row.id == session.selected or under is None or blank is None:
            return None
        artwork, here = session.value(row, "artwork"), blank.correspondence.to_blank(under[1])
        closed = [contour.flattened(ROUGH) for contour in artwork.contours if contour.closed] if artwork else []
        if not closed or not here.inside[0] or not Region(tuple(closed)).contains(here.points)[0]:
            return None
        return row.id, here.points[0]

    def _artwork_under(self, position: QPointF) -> tuple[str, np.ndarray] | None:
        """The artwork row whose wrapped curve is under the mouse, and the blank point there."""
        session, blank, under = self.stage.session, self.stage.blank(), self.stage.under(position)
        if under is None or blank is None:
            return None
        here = self.stage.here(position)
        for row in session.on_blank("wrapped"):
            for curve in session.value(row, "wrapped") or ():
                pixels = self.stage.pixels(curve.form[curve.inside])
                if len(pixels) and np.hypot(*(pixels - here).T).min() < NEAR:
                    placed = next((taken for taken in session.job.sources(row) if movable(taken)), None)
                    if placed is not None:
                        return placed.id, blank.correspondence.to_blank(under[1]).points[0]
        return None


def take_hold(session: Session, row_id: str) -> None:
    """Selects what is taken hold of, unless what is selected makes a body of it, which is to follow."""
    row = held(session)
    if row is None or row.id != row_id:
        session.select(row_id)


def moved(session: Session, row_id: str, motion: Motion) -> None:
    """Shows what is dragged where it now is, and roughly what becomes of it."""
    session.drag(row_id, motion)
    row, selected = session.row(row_id), session.selected_row
    shown = selected if selected is not None and glimpsed(selected) else session.body_of(row)
    values = _moved_values(session, row, motion, 0.0) if row is not None and shown is not None else {}
    if shown is not None and values:
        session.glimpse(shown.id, lambda job: job.set_many(row_id, values))


def dropped(session: Session, row_id: str, grain: float = 0.0) -> None:
    """Turns a drag into an edit of the row's numbers; a place is rounded to ``grain`` mm where it is only moved."""
    motion, row = session.rested(), session.row(row_id)
    if motion is None or row is None:
        return
    changed = _moved_values(session, row, motion, grain)
    if not changed or not session.edit("Move artwork", lambda job: job.set_many(row_id, changed)):
        session.drag(row_id, None)


def _moved_values(session: Session, row: Row, motion: Motion, grain: float) -> dict[str, str]:
    """The numbers of a row that a motion changes, as they are written; none where it lies nowhere yet."""
    values = placement(session, row)
    if values is None:
        return {}
    x, y = motion.apply(np.array([[values["x"], values["y"]]]))[0]
    turn = (values["turn"] + np.degrees(motion.turn) + 180) % 360 - 180
    new = {"x": x, "y": y, "turn": turn, "scale": values["scale"] * motion.scale}
    only_moved = motion.turn == 0 and motion.scale == motion.stretch == 1
    numbers = given(session.job, row)
    if motion.stretch != 1:
        axis = "stretch_x" if abs(np.sin(motion.along - np.radians(values["turn"]))) < 0.5 else "stretch_y"
        numbers |= numbers_of(session.job, row, (axis,))
        new[axis] = (numbers[axis] or 1.0) * motion.stretch
    return {
        k: written(v, grain if only_moved and k in "xy" else 0.0)
        for k, v in new.items()
        if numbers[k] is None or abs(v - numbers[k]) > 1e-9
    }


def placement(session: Session, row: Row) -> dict[str, float] | None:
    """The numbers x, y, turn and scale by which artwork lies where it is seen; None where it does not lie anywhere yet.

    What lies in a free place has its numbers from there.
    """
    values = given(session.job, row)
    if values["x"] is None or values["y"] is None:
        outcome = session.outcome(row)
        result = outcome.result("artwork") if outcome is not None else None
        landed = result.landed if isinstance(result, ArtworkResult) else None
        if landed is None:
            return None
        values["x"], values["y"], values["scale"] = landed
    return {name: value for name, value in values.items() if value is not None}


def given(job: Job, row: Row) -> dict[str, float | None]:
    """The numbers x, y, turn and scale of an artwork row, as far as they are given."""
    return numbers_of(job, row, ("x", "y", "turn", "scale"))
