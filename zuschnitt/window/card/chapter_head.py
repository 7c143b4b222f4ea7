"""The head of a chapter on the route card: its name, and when it is folded what its form and its blank are."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from ...core.job.chapters import Chapter, named
from ...core.results.result import Figure
from ..all_bodies import is_body
from ..name_field import NameField
from ..session import Session
from ..theme import font, side_colour, theme

HEIGHT = 34
NAME = 34
"""Where the name begins, from the left, in pixels."""
GAP = 12


class ChapterHead(QWidget):
    """A click folds the chapter or unfolds it, a double click names it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.chapter: Chapter | None = None
        self.setFixedHeight(HEIGHT)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setToolTip(
            "folds this chapter, or unfolds it (D)\ndouble click or T: another name; with none it is no chapter"
        )

    @property
    def folded(self) -> bool:
        return self.chapter is not None and self.session.is_folded(self.chapter)

    def show_chapter(self, chapter: Chapter) -> None:
        self.chapter = chapter
        said = "folded" if self.folded else "unfolded"
        self.setAccessibleName(
            f"chapter {chapter.name}, rows {chapter.numbers}, {said}, {self._trouble()}".rstrip(", ")
        )
        self.update()

    def toggle(self) -> None:
        if self.chapter is not None:
            self.session.fold_chapter(self.chapter.id, not self.folded)

    def rename(self) -> None:
        """The name becomes a field."""
        chapter = self.chapter
        assert chapter is not None

        def given(name: str) -> None:
            self.session.edit("Name a chapter", lambda job: named(job, chapter.id, name))

        area = QRect(NAME - 4, 4, self.width() - NAME - 90, HEIGHT - 8)
        self.naming = NameField(
            self, area, chapter.name, given, f"name of the chapter {chapter.name}", may_be_empty=True
        )

    # --- what is said --------------------------------------------------------------------------

    def _trouble(self) -> str:
        """The first of its rows that is broken."""
        states = self.session.states
        broken = (r for r in self._rows if r.enabled and r.id in states and states[r.id].status == "broken")
        first = next(broken, None)
        return "" if first is None else f"row {first.number} is broken"

    @property
    def _rows(self):
        return self.chapter.rows if self.chapter is not None else ()

    def figures(self) -> list[Figure]:
        """What stands on its line while it is folded: of its last blank and that one's form, or of its last form."""
        session = self.session
        for kind in ("blank", "form"):
            for row in reversed(self._rows):
                form_row = row if "form" in row.gives else session.job.origin(row, ("form",))
                outcome = session.outcome(row) if kind in row.gives else None
                result = outcome.result(kind) if outcome is not None else None
                if result is not None and is_body(session.value(form_row, "form")):
                    first = {f.side: f for f in reversed(result.figures()) if f.side}
                    return [first[side] for side in ("form", "blank") if side in first]
        return []

    # --- painting ------------------------------------------------------------------------------

    def paintEvent(self, event) -> None:
        if self.chapter is None:
            return
        now = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = HEIGHT / 2 - 1.5
        if self.folded and any(row.id == self.session.selected for row in self._rows):
            painter.fillRect(QRectF(4, 0, 3.5, HEIGHT), QColor(now.ink))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(now.quiet))
        reach = ((-2, -4), (-2, 4), (4, 0)) if self.folded else ((-4, -2), (4, -2), (0, 4))
        painter.drawPolygon(QPolygonF([QPointF(21 + x, middle + y) for x, y in reach]))
        self._write(painter)
        painter.setPen(QPen(QColor(now.rule), 1))
        painter.drawLine(QPointF(16, HEIGHT - 0.5), QPointF(self.width() - 16, HEIGHT - 0.5))
        if self.hasFocus():
            painter.setPen(QPen(QColor(now.form), 1.2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(10.5, 3.5, self.width() - 21, HEIGHT - 8), 4, 4)

    def _write(self, painter: QPainter) -> None:
        """The name from the left, what is said of it from the right: figures give way first, then the numbers."""
        assert self.chapter is not None
        now = theme()
        painter.setFont(font(13, bold=True))
        name = self.chapter.name
        wanted = painter.fontMetrics().horizontalAdvance(name) + GAP
        right = self.width() - 16.0
        parts = [(self._trouble(), now.broken)] if self._trouble() else []
        if self.folded and not parts:
            parts = [(self.session.words(f"{f.label} {f.text}"), side_colour(f.side)) for f in self.figures()]
        painter.setFont(font(11))
        numbers = painter.fontMetrics().horizontalAdvance(self.chapter.numbers) + GAP
        for text, colour in [*reversed(parts), (self.chapter.numbers, now.quiet)]:
            width = painter.fontMetrics().horizontalAdvance(text)
            kept = 0 if text == self.chapter.numbers else numbers
            if right - width - kept < NAME + wanted:
                continue
            painter.setPen(QColor(colour))
            right -= width
            painter.drawText(QRectF(right, 0, width + 1, HEIGHT - 1), Qt.AlignmentFlag.AlignVCenter, text)
            right -= GAP
        painter.setFont(font(13, bold=True))
        painter.setPen(QColor(now.ink))
        room = right - NAME
        name = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, int(room))
        painter.drawText(QRectF(NAME, 0, room, HEIGHT - 1), Qt.AlignmentFlag.AlignVCenter, name)

    # --- mouse and keys ------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        self.toggle()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.toggle()  # as it was before the first click
        self.rename()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.toggle()
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event) -> None:
        self.update()
        super().focusInEvent(event)

    def focusOutEvent(self, event) -> None:
        self.update()
        super().focusOutEvent(event)
