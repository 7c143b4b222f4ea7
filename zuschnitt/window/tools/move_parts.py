"""Moves and turns the parts of a nest: dragged, turned by a handle, moved by the arrow keys."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
import shapely
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPen

from ...core.nesting.laid_part import LaidPart
from ...core.nesting.part import Part, Placed
from ...core.nesting.sheet import Nesting
from ...core.operations.registry import entries, known_entry
from ...core.parameters.laid import LaidParts, put
from ...core.record import record
from ...core.results.nest import NestResult
from ..drawing import grain_of
from ..layers.paths import path_of
from ..motion import Motion
from ..theme import theme
from .grips import HANDLE, Grip, handle_places, motion_of
from .move_artwork import ARROWS
from .tool import Tool

if TYPE_CHECKING:
    from ..stages.blank_stage import BlankStage

QUARTER = 90.0


@record
class _Held:
    """The part of that number in the nest, ``grip`` that took hold of it, and where it lies now in the picture."""

    number: int
    grip: Grip
    now: Placed


class MoveParts(Tool):
    words = "drag a part; turn it by its handle, or by R"
    alone = True

    def __init__(self, stage: BlankStage) -> None:
        self.stage, self.session = stage, stage.session
        self.chosen: tuple[str, int] | None = None
        self._held: _Held | None = None
        self._seen: tuple[object, object, list[Placed]] | None = None

    @property
    def nest(self) -> NestResult | None:
        """That of the selected row."""
        outcome = self.session.outcome(self.session.selected_row)
        found = outcome.result("nest") if outcome is not None else None
        return found if isinstance(found, NestResult) else None

    @property
    def ready(self) -> bool:
        return self.nest is not None

    def press(self, event: QMouseEvent) -> bool:
        nest = self.nest
        if nest is None:
            return False
        at = self.stage.view.to_blank(event.position())
        chosen = self._number(nest.value)
        if chosen is not None and self._on_handle(event.position(), self._in_picture(nest, chosen)):
            self._hold(nest, chosen, "turn", at)
            return True
        point = shapely.Point(*at)
        under = [k for k in range(len(nest.value.parts)) if self._in_picture(nest, k).solid.contains(point)]
        self.chosen = _name(nest.value.parts[under[0]][1].part) if under else None
        if under:
            self._hold(nest, under[0], "move", at)
        return bool(under)

    def _hold(self, nest: NestResult, number: int, what: str, at: np.ndarray) -> None:
        placed = self._in_picture(nest, number)
        middle = np.array(placed.shape.envelope.centroid.coords[0])
        self._held = _Held(number, Grip(what, "", at, middle), placed)

    def drag(self, event: QMouseEvent) -> None:
        nest, held = self.nest, self._held
        if nest is None or held is None:
            return
        motion = motion_of(held.grip, self.stage.view.to_blank(event.position()), event.modifiers())
        self._held = replace(held, now=_moved(self._in_picture(nest, held.number), motion))

    def drop(self, event: QMouseEvent) -> None:
        nest, held, self._held = self.nest, self._held, None
        if nest is not None and held is not None:
            self._lay(nest, held.number, held.now, grain_of(self.stage.view.scale) if held.grip.what == "move" else 0.0)

    def click(self, event: QMouseEvent) -> bool:
        self._held = None
        return True

    def takes(self, event: QKeyEvent) -> bool:
        return event.key() == Qt.Key.Key_R and self.chosen is not None

    def key(self, event: QKeyEvent) -> bool:
        nest = self.nest
        number = self._number(nest.value) if nest is not None else None
        if nest is None or number is None:
            return False
        placed = self._in_picture(nest, number)
        far = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if event.key() in ARROWS:
            step = np.array(ARROWS[Qt.Key(event.key())]) * (10.0 if far else 1.0)
            self._lay(nest, number, _moved(placed, Motion(shift=(float(step[0]), float(step[1])))))
            return True
        if event.key() == Qt.Key.Key_R:
            x, y = placed.shape.envelope.centroid.coords[0]
            turn = np.radians(-QUARTER if far else QUARTER)
            self._lay(nest, number, _moved(placed, Motion(turn=float(turn), pivot=(x, y))))
            return True
        return False

    def cursor(self, position: QPointF) -> Qt.CursorShape | None:
        nest = self.nest
        if nest is None:
            return None
        chosen = self._number(nest.value)
        if chosen is not None and self._on_handle(position, self._in_picture(nest, chosen)):
            return Qt.CursorShape.PointingHandCursor
        return None

    def paint(self, painter: QPainter) -> None:
        """The part that is chosen with the handle that turns it; red while it would lie too near."""
        nest = self.nest
        number = self._held.number if self._held is not None else self._number(nest.value) if nest else None
        if nest is None or number is None:
            return
        now, held = theme(), self._held
        placed = held.now if held is not None else self._in_picture(nest, number)
        wrong = held is not None and not self._free(nest, number, placed)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        path = self.stage.view.transform.map(path_of(c for c in placed.contours if c.closed))
        if held is not None:
            fill = QColor(now.failing if wrong else now.blank_tint)
            painter.fillPath(path, fill)
        painter.strokePath(path, QPen(QColor(now.broken if wrong else now.form), 2.0))
        corners = self._frame(placed)
        handle = handle_places(corners)["turn"]
        painter.setPen(QPen(QColor(now.form), 1.2))
        painter.drawLine(QPointF(*((corners[2] + corners[3]) / 2)), QPointF(*handle))
        painter.setBrush(QColor(now.blank_paper))
        painter.drawEllipse(QPointF(*handle), HANDLE / 2, HANDLE / 2)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    # --- where parts are -----------------------------------------------------------------------

    def _number(self, nest: Nesting) -> int | None:
        """The number in the nest of the part that is chosen."""
        names = [_name(placed.part) for _, placed in nest.parts]
        return names.index(self.chosen) if self.chosen in names else None

    def _in_picture(self, nest: NestResult, number: int) -> Placed:
        """A part where it is seen, its sheet's place counted in; where it was laid last if that is being computed."""
        row = self.session.selected_row
        if self._seen is None or self._seen[0] is not nest or self._seen[1] is not row:
            self._seen = nest, row, self._pictured(nest)
        return self._seen[2][number]

    def _pictured(self, nest: NestResult) -> list[Placed]:
        last, places = self._laid_last(), nest.places()
        found = []
        for sheet, placed in nest.value.parts:
            on, at, turn = sheet, placed.at, placed.turn
            laid = last.get(_name(placed.part))
            if laid is not None and laid.sheet <= len(nest.value.sheets):
                on, at, turn = laid.sheet - 1, laid.at, laid.turn
            x, y = places[on][1]
            found.append(Placed(placed.part, (at[0] + x, at[1] + y), turn))
        return found

    def _laid_last(self) -> dict[tuple[str, int], LaidPart]:
        """Where the selected row lays parts by hand."""
        row = self.session.selected_row
        parameter = _laying(row.operation) if row is not None else None
        if row is None or parameter is None:
            return {}
        known = parameter.resolved(parameter.written(row), self.session.job.numbers)
        return {(each.name, each.copy): each for each in known}

    def _frame(self, placed: Placed) -> np.ndarray:
        """Pixels (4, 2) of the box round a part, from its lower left."""
        x0, y0, x1, y1 = placed.shape.bounds
        return self.stage.view.to_pixels(np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]]))

    def _on_handle(self, position: QPointF, placed: Placed) -> bool:
        handle = handle_places(self._frame(placed))["turn"]
        return bool(np.hypot(position.x() - handle[0], position.y() - handle[1]) < HANDLE)

    def _sheet_under(self, nest: NestResult, placed: Placed) -> int | None:
        """The number, from 0, of the sheet on which the middle of a part lies."""
        middle = placed.shape.envelope.centroid
        for k, (sheet, (x, y)) in enumerate(nest.places()):
            if shapely.box(x, y, x + sheet.size[0], y + sheet.size[1]).contains(middle):
                return k
        return None

    def _free(self, nest: NestResult, number: int, placed: Placed) -> bool:
        """Whether nothing else of that sheet is too near, nor its edge."""
        k = self._sheet_under(nest, placed)
        if k is None:
            return False
        sheet, (x, y) = nest.places()[k]
        here = Placed(placed.part, (placed.at[0] - x, placed.at[1] - y), placed.turn)
        others = tuple(each for i, (on, each) in enumerate(nest.value.parts) if on == k and i != number)
        wrong = replace(sheet, parts=(here, *others)).too_near(nest.value.how, only=0)
        return not wrong

    def _lay(self, nest: NestResult, number: int, placed: Placed, grain: float = 0.0) -> None:
        """The part lies there from now on: written in the selected row, or in a new one below it."""
        row, sheet = self.session.selected_row, self._sheet_under(nest, placed)
        if row is None or sheet is None:
            return
        at = np.subtract(placed.at, nest.places()[sheet][1])
        at = np.round(at / grain) * grain if grain else at.round(6)
        part, turn = placed.part, round(placed.turn, 6) % 360
        laid = LaidPart(part.name, part.copy, sheet + 1, (float(at[0]), float(at[1])), turn)
        parameter = _laying(row.operation)
        if parameter is not None:
            value = put(parameter.written(row), laid)
            self.session.edit("Move a part", lambda job: job.set(row.id, parameter.name, value))
            return
        key, name = next((e.key, p.name) for e in entries().values() if (p := _laying(e.key)) is not None)
        value = put("", laid)
        if self.session.edit("Move a part", lambda job: job.added(key, row.id, **{name: value})):
            self.session.select(self.session.job.rows[self.session.job.place(row.id) + 1].id)


def _name(part: Part) -> tuple[str, int]:
    return part.name, part.copy


def _laying(operation: str) -> LaidParts | None:
    """The value of an operation that says where parts are laid by hand."""
    known = known_entry(operation)
    return next((p for p in known.parameters if isinstance(p, LaidParts)), None) if known is not None else None


def _moved(placed: Placed, motion: Motion) -> Placed:
    x, y = motion.apply(np.array([placed.at]))[0]
    return Placed(placed.part, (float(x), float(y)), (placed.turn + float(np.degrees(motion.turn))) % 360)
