"""One row of the route card."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PyQt6.QtCore import QEvent, QPointF, QRect, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QLabel, QLayout, QLineEdit, QVBoxLayout, QWidget

from ...core.job.route import Job, Row
from ...core.operations.registry import known_entry
from ...core.parameters.file import File
from ...core.results.result import Remedy
from ..drawing import figures_of
from ..name_field import NameField
from ..session import Session
from ..theme import font, inked, side_colour, theme
from .body_list import BodyList
from .figure_list import FigureList
from .flow import Flow
from .link import Link
from .sentence import Sentence

INDENT = 46
TITLE = 32
"""Where the title ends, from the top, in pixels."""
COUNTS = ("faces", "curves", "points", "contours")
"""Figures that a row's brief says already."""


def empty(layout: QLayout) -> None:
    """Takes all widgets out of a layout, and lets go of them."""
    while (item := layout.takeAt(0)) is not None:
        widget = item.widget()
        if widget is not None:
            widget.hide()
            widget.deleteLater()


class RowCard(QWidget):
    """Number, title, mark, brief and state; when selected also sentence, note and what can be done."""

    write_asked = pyqtSignal(str, str)
    chapter_asked = pyqtSignal()

    def __init__(self, session: Session, row: Row) -> None:
        super().__init__()
        self.session, self.row = session, row
        self.known = known_entry(row.operation)
        self.sentence: Sentence | None = None
        self.figures: FigureList | None = None
        self._about: tuple = ()
        self._link = ""
        self._asking = False
        outer = QVBoxLayout(self)
        outer.setContentsMargins(INDENT, 34, 16, 10)
        outer.setSpacing(3)
        self._brief = self._label("quiet")
        self._state = self._label("")
        self._body = QWidget()
        self._inner = QVBoxLayout(self._body)
        self._inner.setContentsMargins(0, 4, 0, 0)
        self._inner.setSpacing(6)
        self._refusal = self._label("broken")
        self._refusal.hide()
        outer.addWidget(self._body)
        outer.addWidget(self._refusal)
        outer.addWidget(self._brief)
        outer.addWidget(self._state)
        self._foot = QWidget()
        foot = QVBoxLayout(self._foot)
        foot.setContentsMargins(0, 2, 0, 0)
        foot.setSpacing(5)
        self.note = QLineEdit(row.note)
        self.note.setFont(font(12))
        self.note.setPlaceholderText("note; a number written as  pitch = 12.5  can be used in every field")
        self.note.editingFinished.connect(self._noted)
        self._links = QWidget()
        self._links_flow = Flow(self._links, line=20)
        self._offered: list[str] = []
        self.bodies = BodyList(session)
        foot.addWidget(self.bodies)
        foot.addWidget(self.note)
        foot.addWidget(self._links)
        outer.addWidget(self._foot)
        self.setCursor(Qt.CursorShape.ArrowCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.refresh(row)

    def _label(self, tone: str) -> QLabel:
        label = QLabel()
        label.setFont(font(12))
        label.setWordWrap(True)
        inked(label, tone)
        return label

    @property
    def selected(self) -> bool:
        return self.session.selected == self.row.id

    # --- showing -------------------------------------------------------------------------------

    def refresh(self, row: Row) -> None:
        """Shows the row and its state as they now are."""
        session = self.session
        about = (row, session.states.get(row.id), row.id in session.pending, session.coarse.get(row.id))
        same = all(a is b for a, b in zip(about, self._about, strict=False))
        if same and self._about and not self.selected and self.sentence is None:
            self._show_link()
            return
        self._about = about
        self.row = row
        if self.selected and self.sentence is None and self.known is not None:
            self._open(row)
        elif not self.selected and self.sentence is not None and not self._editing:
            empty(self._inner)
            self.sentence = self.figures = None
            self._refused("")
        if self.sentence is not None:
            self.sentence.show_row(row)
        if self.figures is not None:
            self.figures.show_row(row)
        self._body.setVisible(self.sentence is not None)
        self._foot.setVisible(self.selected)
        if self.selected:
            self._show_links()
            form = self.session.value(row, "form") if "form" in row.gives else None
            self.bodies.show_form(row, form)
        if not self.note.hasFocus():
            self.note.setText(row.note)
            self.note.setCursorPosition(0)
        self._show_state()
        self.setAccessibleName(f"row {row.number}, {row.name}, {self._state.text()}")
        self._show_link()
        self.update()

    def _show_link(self) -> None:
        """How the row hangs together with the selected one: marked in the margin, and said."""
        link, selected = self.session.link(self.row), self.session.selected_row
        if link != self._link:
            self._link = link
            self.update()
        elif not link and self.toolTip():
            return
        said = ""
        if link and selected is not None:
            said = f"\nrow {selected.number} takes it" if link == "given" else f"\ntakes row {selected.number}"
        if self.known is not None:
            self.setToolTip(f"in: {self.known.takes}\nout: {self.known.makes}{said}")

    def _open(self, row: Row) -> None:
        """The sentence of the selected row, and the figures of a drawing below it."""
        assert self.known is not None
        side = "blank" if self.known.stage in ("blank", "blank>form") else "form"
        self.sentence = Sentence(self.session, row, self.known, side)
        self.sentence.refused.connect(self._refused)
        self._inner.addWidget(self.sentence)
        if figures_of(row) is not None:
            self.figures = FigureList(self.session, row)
            self.figures.refused.connect(self._refused)
            self._inner.addWidget(self.figures)

    @property
    def _editing(self) -> bool:
        return any(part is not None and part.editing for part in (self.sentence, self.figures))

    def _show_state(self) -> None:
        state = self.session.states.get(self.row.id)
        outcome = state.outcome if state else None
        brief = self.session.words(outcome.brief) if outcome is not None else ""
        if not self.selected and self.row.note:
            brief = f"{brief}\n{self.row.note}" if brief else self.row.note
        self._brief.setText(brief)
        self._brief.setVisible(bool(brief))
        text, tone = "", ""
        if not self.row.enabled:
            text, tone = "switched off", "quiet"
        elif self.session.hides(self.row) and (state is None or state.status == "done"):
            text, tone = "hidden on the stages (X shows it)", "quiet"
        elif state is not None and state.status == "broken":
            text, tone = f"broken: {state.reason}", "broken"
        elif state is not None and state.status in ("waiting", "stopped"):
            text, tone = state.reason, "" if state.status == "waiting" else "broken"
        elif self.row.id in self.session.pending:
            text, tone = "being computed …", "quiet"
        elif outcome is not None:
            if not self.selected:  # the figures of the selected row stand along the bottom
                figures = [f for f in outcome.figures if f.label not in COUNTS]
                text = " · ".join(_figure_words(f) for f in figures[:2])
            if outcome.warnings:
                text, tone = outcome.warnings[0], "broken"
            elif outcome.notes:
                text = outcome.notes[0]
        self._state.setText(self.session.words(text))
        inked(self._state, tone)
        self._state.setVisible(bool(text))

    def changeEvent(self, event: QEvent) -> None:
        """Its figures are written in the colours that there are now."""
        super().changeEvent(event)
        if event.type() == QEvent.Type.PaletteChange and self._about:
            self._show_state()

    def _show_links(self) -> None:
        offers = list(self._offers())
        if [text for text, *_ in offers] == self._offered:
            return
        self._offered = [text for text, *_ in offers]
        empty(self._links_flow)
        for text, tip, do in offers:
            self._links_flow.addWidget(Link(text, tip, do, self._links))
        self._links.updateGeometry()

    def _offers(self):
        session, row_id = self.session, self.row.id
        state = session.states.get(row_id)
        if state is not None and state.status in ("broken", "stopped"):
            yield "try again", "computes this row once more", session.retry
        outcome = None if session.stale(self.row) else session.outcome(self.row)
        for remedy in state.remedies if state is not None and state.status == "broken" else ():
            yield remedy.words, "would help; one undo takes it back", partial(self._help, remedy)
        for remedy in outcome.remedies if outcome is not None else ():
            yield remedy.words, "tried, and found to help; one undo takes it back", partial(self._help, remedy)
        endings: dict[str, str] = {}
        for result in outcome.results if outcome is not None else ():
            for ending, tip in result.writes.items():
                endings.setdefault(ending, tip)
        for ending, tip in endings.items():
            yield f"write {ending.upper()}", tip, lambda ending=ending: self.write_asked.emit(row_id, ending)
        on = self.row.enabled
        yield (
            ("switch off", "leaves this row out; what follows waits")
            if on
            else ("switch on", "takes this row in again")
        ) + (lambda: session.edit("Switch a row", lambda job: job.changed(row_id, enabled=not on)),)
        yield "name", "gives this row a name of its own, where it stands (double click it)", self._rename
        if not self.row.chapter:
            yield "chapter", "begins a chapter of the job with this row (T)", self.chapter_asked.emit
        yield "up", "moves this row up (Alt Up)", lambda: session.edit("Move a row", lambda j: j.moved(row_id, -1))
        yield "down", "moves this row down (Alt Down)", lambda: session.edit("Move a row", lambda j: j.moved(row_id, 1))
        takers = session.job.takers(self.row)
        if self._asking and takers:
            waits = "waits" if len(takers) == 1 else "wait"
            yield f"remove it though {row_numbers(takers)} {waits} then", "takes this row away", self._remove
            yield "keep it", "leaves this row where it is", lambda: self._ask_first(False)
        else:
            yield "remove", "takes this row away (Delete)", lambda: self._ask_first(True) if takers else self._remove()

    def _help(self, remedy: Remedy) -> None:
        def helped(job: Job) -> Job:
            for name, value in remedy.values.items():
                job = job.set(self.row.id, name, value)
            return job

        self.session.edit("Take advice", helped)

    def _ask_first(self, asking: bool) -> None:
        self._asking = asking
        self._show_links()

    def _remove(self) -> None:
        row_id = self.row.id
        self.session.edit("Remove a row", lambda job: job.removed(row_id))

    def ask_for_file(self, parameter: File) -> None:
        """Opens a dialog for the file that a value waits for."""
        if self.sentence is not None:
            self.sentence.chips[parameter.name].ask()

    def _rename(self) -> None:
        """The title becomes a field."""
        row_id = self.row.id

        def given(name: str) -> None:
            self.session.edit("Name a row", lambda job: job.changed(row_id, title=name))

        area = QRect(INDENT - 4, 7, self.width() - INDENT - 82, 26)
        self.naming = NameField(self, area, self.row.name, given, f"name of row {self.row.number}")

    def _refused(self, why: str) -> None:
        self._refusal.setText(self.session.words(why))
        self._refusal.setVisible(bool(why))

    def _noted(self) -> None:
        text, row_id = self.note.text(), self.row.id
        if text != self.row.note:
            self.session.edit("Write a note", lambda job: job.changed(row_id, note=text))

    # --- painting ------------------------------------------------------------------------------

    def paintEvent(self, event) -> None:
        now = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.selected:
            painter.fillRect(QRectF(4, 0, self.width() - 4, self.height()), QColor(now.chosen))
            colour = self.known.stage if self.known else "form"
            painter.fillRect(
                QRectF(4, 0, 3.5, self.height()), QColor(now.blank if colour.startswith("blank") else now.form)
            )
        faded = not self.row.enabled or self.session.hides(self.row)
        painter.setFont(font(12, bold=True))
        painter.setPen(QColor(now.quiet))
        number = str(self.row.number)
        left = min(16, INDENT - 7 - painter.fontMetrics().horizontalAdvance(number))  # in long jobs it has four digits
        painter.drawText(QRectF(left, 8, INDENT - left, 24), Qt.AlignmentFlag.AlignVCenter, number)
        painter.setFont(font(13, bold=True))
        painter.setPen(QColor(now.quiet if faded else now.ink))
        width = self.width() - INDENT - 90
        title = painter.fontMetrics().elidedText(self.row.name, Qt.TextElideMode.ElideRight, width)
        painter.drawText(QRectF(INDENT, 8, width, 24), Qt.AlignmentFlag.AlignVCenter, title)
        self._paint_mark(painter)
        if self._link:
            self._paint_link(painter)
        painter.setPen(QPen(QColor(now.rule), 1))
        painter.drawLine(QPointF(16, self.height() - 0.5), QPointF(self.width() - 16, self.height() - 0.5))
        running = self.session.running
        if running is not None and running[0] == self.row.id:
            painter.fillRect(QRectF(16, self.height() - 3, (self.width() - 32) * running[1], 3), QColor(now.form))

    def _paint_link(self, painter: QPainter) -> None:
        """An arrow in the margin: filled on a row whose result the selected one takes, hollow on one that takes its."""
        colour = QColor(
            side_colour("blank" if self.known is not None and self.known.stage.endswith("blank") else "form")
        )
        painter.setPen(QPen(colour, 1.6))
        painter.drawLine(QPointF(23, 36), QPointF(23, 48))
        tip = QPolygonF([QPointF(18.5, 47), QPointF(27.5, 47), QPointF(23, 55)])
        painter.setBrush(colour if self._link == "given" else QColor(theme().paper))
        painter.drawPolygon(tip)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _paint_mark(self, painter: QPainter) -> None:
        """Which side the row works on, or from which to which it carries."""
        now = theme()
        stage = self.known.stage if self.known else ""
        left, right = QPointF(self.width() - 60, 20), QPointF(self.width() - 26, 20)
        for at, colour, side in ((left, now.form, "form"), (right, now.blank, "blank")):
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(colour))
            painter.drawEllipse(at, 4, 4)
            if stage == side:
                painter.setPen(QPen(QColor(colour), 1.3))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawEllipse(at, 7.5, 7.5)
        if stage in ("form>blank", "blank>form"):
            start, end, colour = (left, right, now.form) if stage == "form>blank" else (right, left, now.blank)
            way = 1 if end.x() > start.x() else -1
            tip = QPointF(end.x() - 8 * way, end.y())
            painter.setPen(QPen(QColor(colour), 1.4))
            painter.drawLine(QPointF(start.x() + 8 * way, start.y()), tip)
            for up in (-4, 4):
                painter.drawLine(tip, QPointF(tip.x() - 5 * way, tip.y() + up))

    # --- mouse and keys ------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        self.session.select(self.row.id)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if event.position().y() < TITLE:
            self._rename()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.session.select(self.row.id)
            if self.sentence is not None and self.sentence.chips:
                next(iter(self.sentence.chips.values())).setFocus()
        else:
            super().keyPressEvent(event)


def row_numbers(rows: Sequence[Row]) -> str:
    """Rows by their numbers, in words."""
    numbers = [str(row.number) for row in rows]
    if len(numbers) == 1:
        return f"row {numbers[0]}"
    return f"rows {', '.join(numbers[:-1])} and {numbers[-1]}"


def _figure_words(figure) -> str:
    """A figure in a row: the label and the text, the text alone where it speaks for itself."""
    colour = side_colour(figure.side)
    plain = figure.text if figure.label in ("to the edge",) else f"{figure.label} {figure.text}"
    return f'<span style="color:{colour}">{plain}</span>' if figure.side else plain
