"""Draws figures on the blank: places the next one, picks, moves, catches what is there."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QGuiApplication, QKeyEvent, QMouseEvent, QPainter, QPen

from ..drawing import (
    LiveDrawing,
    clipped,
    from_clipboard,
    grain_of,
    shifted,
    with_figure,
    without_figures,
    written,
)
from ..session import Wanted
from ..theme import font, theme
from .tool import Tool

if TYPE_CHECKING:
    from ...core.figures.catching import Caught
    from ..stages.blank_stage import BlankStage

REACH = 9.0
"""Within this many pixels a thing is caught, or meant."""
ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}


class Draw(Tool):
    """One press does one of: place a figure, edit a dimension, move what is picked, or pull a box round figures."""

    def __init__(self, stage: BlankStage) -> None:
        self.stage, self.session = stage, stage.session
        self.caught: Caught | None = None
        self._start: np.ndarray | None = None
        self._moving: LiveDrawing | None = None
        self._tried: tuple[LiveDrawing, list[dict]] | None = None
        self._box: tuple[np.ndarray, np.ndarray] | None = None
        self._at: np.ndarray | None = None

    # --- what it is about ----------------------------------------------------------------------

    def drawing(self) -> LiveDrawing | None:
        return self.session.drawings.now()

    @property
    def _wanted_place(self) -> Wanted | None:
        """A place that waits for a click."""
        wanted, row = self.session.wanted, self.session.selected_row
        if wanted is None or row is None or wanted.row_id != row.id:
            return None
        return wanted if self.session.job.parameter(row, wanted.name).picked == "place" else None

    @property
    def foot(self) -> str:
        """What it would do."""
        if self.session.placing is not None:
            return "click where it is to be · Esc leaves it"
        if self._wanted_place is not None:
            return "click what it is to be measured from · Esc leaves it"
        drawing = self.drawing()
        if drawing is None or not drawing.drawn:
            return "choose draw … in the row, then click here"
        if self.session.figures:
            return "drag or arrows move · Delete removes · Ctrl C, Ctrl V copy"
        return "click a figure · drag a box round several, with Ctrl also those it touches"

    def _reach(self) -> float:
        return REACH / self.stage.view.scale

    def _catch(self, at: np.ndarray, without: set[int] | None = None) -> Caught | None:
        drawing = self.drawing()
        return drawing.catcher.at(at, self._reach(), without or ()) if drawing is not None else None

    # --- the mouse -----------------------------------------------------------------------------

    def press(self, event: QMouseEvent) -> bool:
        drawing, at = self.drawing(), self.stage.view.to_blank(event.position())
        if drawing is None:
            return False
        self._start, self._moving, self._box = at, None, None
        if self.session.placing is not None or self._wanted_place is not None:
            return True
        if self.stage.dimension_at(event.position()) is not None:
            return True
        found = drawing.under(at, self._reach())
        add = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if found is None:
            self._box = (at, at)
            return True
        if add:
            self.session.pick_figures(self.session.figures ^ {found})
        elif found not in self.session.figures:
            self.session.pick_figures({found})
        self._moving = self.drawing()
        self.session.end_step()
        return True

    def drag(self, event: QMouseEvent) -> None:
        at = self.stage.view.to_blank(event.position())
        self._at = at
        if self._box is not None:
            self._box = (self._box[0], at)
        elif self._moving is not None and self._start is not None:
            self._move(at - self._start, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        self.stage.update()

    def drop(self, event: QMouseEvent) -> None:
        if self._box is not None:
            drawing, box = self.drawing(), self._box
            if drawing is not None:
                touched = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
                more = self.session.figures if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else set()
                self.session.pick_figures(drawing.boxed(*box, touched) | more)
        self._rest()

    def click(self, event: QMouseEvent) -> bool:
        at, position = self.stage.view.to_blank(event.position()), event.position()
        if self.session.placing is not None:
            self._place(at)
        elif (wanted := self._wanted_place) is not None:
            self._measure_from(wanted, at)
        elif (found := self.stage.dimension_at(position)) is not None:
            self.stage.edit_dimension(*found)
        elif self._box is not None:
            self.session.pick_figures(set())
        self._rest()
        return True

    def cursor(self, position: QPointF) -> Qt.CursorShape | None:
        drawing, at = self.drawing(), self.stage.view.to_blank(position)
        self._at, self.caught = at, self._catch(at)
        if self.session.placing is not None or self._wanted_place is not None:
            return Qt.CursorShape.CrossCursor
        if self.stage.dimension_at(position) is not None:
            return Qt.CursorShape.IBeamCursor
        over = drawing is not None and drawing.under(at, self._reach()) is not None
        return Qt.CursorShape.SizeAllCursor if over else None

    def _rest(self) -> None:
        self._box = self._moving = None
        tried, self._tried = self._tried, None
        if tried is not None:
            self._set(*tried, "Move figures")
            self.session.drawings.try_out(None)
            if not self.session.pending:  # it is where it was
                self.session.forget_glimpse()
        self.session.end_step()
        self.stage.update()

    def _move(self, step: np.ndarray, straight: bool) -> None:
        """Moves what is picked; the middle of a single figure goes where something is caught."""
        drawing, picked = self._moving, self.session.figures
        assert drawing is not None
        if straight:
            step = step * ([1, 0] if abs(step[0]) > abs(step[1]) else [0, 1])
        grain = grain_of(self.stage.view.scale)
        self.caught = None
        number = next(iter(picked)) if len(picked) == 1 else None
        frame = drawing.frame(number) if number is not None else None
        found = drawing.figure(number) if number is not None else None
        if frame is not None and found is not None and not straight:
            here = frame.at(found.figure.x, found.figure.y)  # type: ignore[attr-defined]
            caught = drawing.catcher.at(here + step, self._reach(), picked)
            if caught is not None:
                self.caught, step, grain = caught, caught.point - here, 0.0
        self._try(drawing, shifted(drawing, picked, step, grain))

    def _set(self, drawing: LiveDrawing, lines: list[dict], what: str) -> None:
        name, row_id = drawing.parameter.name, drawing.row.id
        self.session.attempt(what, lambda job: job.set(row_id, name, lines), merge=f"{row_id}.{name}")

    def _try(self, drawing: LiveDrawing, lines: list[dict]) -> None:
        """Shows the drawing with those lines, and roughly what is made of it, without an edit."""
        name, row = drawing.parameter.name, drawing.row
        self._tried = drawing, lines
        self.session.drawings.try_out(replace(row, parameters={**row.parameters, name: lines}))
        body = self.session.body_of(row)
        if body is not None:
            self.session.glimpse(body.id, lambda job: job.set(row.id, name, lines))

    def _place(self, at: np.ndarray) -> None:
        drawing, key = self.drawing(), self.session.placing
        if drawing is None or key is None:
            return
        caught = self._catch(at)
        values: dict[str, str] = {"x": "0", "y": "0"}
        if caught is not None and caught.place:
            values["place"] = caught.place
        else:
            from ...core.parameters.place import Anchor

            frame = drawing.ground.frame(Anchor("middle"))
            x, y = frame.seen(caught.point if caught is not None else at)
            grain = 0.0 if caught is not None else grain_of(self.stage.view.scale)
            values = {"x": written(x, grain), "y": written(y, grain), "place": "middle"}
        with_figure(self.session, drawing.row.id, key, values)

    def _measure_from(self, wanted: Wanted, at: np.ndarray) -> None:
        caught = self._catch(at)
        if caught is None or not caught.place:
            self.session.said.emit(
                "There is nothing there to measure from; click a corner, the middle of an edge or a figure's.", "note"
            )
            return
        place = caught.place
        if self.session.edit("Measure from another place", lambda job: job.set(wanted.row_id, wanted.name, place)):
            self.session.want(None)

    # --- the keys ------------------------------------------------------------------------------

    def takes(self, event: QKeyEvent) -> bool:
        """Whether a key means something here that means something else in the window."""
        control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if control:
            return event.key() in (Qt.Key.Key_C, Qt.Key.Key_V, Qt.Key.Key_X, Qt.Key.Key_A)
        return event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Escape) and bool(self.session.figures)

    def key(self, event: QKeyEvent) -> bool:
        drawing, picked, key = self.drawing(), self.session.figures, event.key()
        control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if drawing is None:
            return False
        if key == Qt.Key.Key_Escape and (self.session.placing or self._wanted_place or picked):
            self.session.place_next(None) if self.session.placing else self.session.pick_figures(set())
            self.session.want(None)
            return True
        if control and key == Qt.Key.Key_V:
            return self._paste(drawing)
        if control and key == Qt.Key.Key_A:
            self.session.pick_figures({each.number for each in drawing.drawn if not each.used})
            return True
        if not picked:
            return False
        if key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            without_figures(self.session, drawing.row, picked)
            return True
        if control and key in (Qt.Key.Key_C, Qt.Key.Key_X):
            text = clipped(drawing.parameter.written(drawing.row), picked)
            clipboard = QGuiApplication.clipboard()
            assert clipboard is not None
            clipboard.setText(text)
            if key == Qt.Key.Key_X:
                without_figures(self.session, drawing.row, picked)
            return True
        if key in ARROWS and not control:
            far = 10.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
            step = far * np.array(ARROWS[Qt.Key(key)], float)
            self._set(drawing, shifted(drawing, picked, step), "Move figures")
            return True
        return False

    def _paste(self, drawing: LiveDrawing) -> bool:
        clipboard = QGuiApplication.clipboard()
        assert clipboard is not None
        lines = list(drawing.parameter.written(drawing.row) or ())
        new = from_clipboard(clipboard.text(), lines)
        if not new:
            return False
        name, row_id = drawing.parameter.name, drawing.row.id
        if self.session.edit("Put figures in", lambda job: job.set(row_id, name, [*lines, *new])):
            self.session.pick_figures({int(line["number"]) for line in new})
        return True

    # --- painting ------------------------------------------------------------------------------

    def paint(self, painter: QPainter) -> None:
        now, view = theme(), self.stage.view
        if self._box is not None:
            (x0, y0), (x1, y1) = view.to_pixels(np.array(self._box))
            painter.setPen(QPen(QColor(now.blank), 1, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(min(x0, x1), min(y0, y1), abs(x1 - x0), abs(y1 - y0)))
        waits = self.session.placing is not None or self._wanted_place is not None
        if self.caught is not None and (waits or self._moving is not None or self.caught.place):
            x, y = view.to_pixels(self.caught.point.reshape(1, 2))[0]
            painter.setPen(QPen(QColor(now.form), 1.6))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(QPointF(x, y), 6, 6)
            painter.setFont(font(11))
            width = painter.fontMetrics().horizontalAdvance(self.caught.name) + 10
            left = min(x + 10, self.stage.width() - width - 4)
            area = QRectF(left, y - 26, width, 17)
            painter.fillRect(area, QColor(now.blank_paper))
            painter.drawText(area, Qt.AlignmentFlag.AlignCenter, self.caught.name)
