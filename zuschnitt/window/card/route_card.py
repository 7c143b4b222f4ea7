"""The route card: the rows between form and blank."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from itertools import groupby
from typing import Any

from PyQt6.QtCore import QCoreApplication, QEvent, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter
from PyQt6.QtWidgets import QApplication, QLabel, QPushButton, QScrollArea, QStackedWidget, QVBoxLayout, QWidget

from ...core.job.beginning import begun
from ...core.job.chapters import Chapter, chapter_of, named
from ...core.job.route import Row
from ...core.operations.registry import entries
from ...core.parameters.file import File
from ...core.results.result import kinds
from ..session import Session, Wanted
from ..stages.stage import HEAD
from ..theme import font, inked, theme
from .chapter_head import ChapterHead
from .fold_slider import FoldSlider
from .gap import Gap
from .operation_list import OperationList
from .row_card import Link, RowCard, empty
from .values_strip import ValuesStrip

AT_ONCE = 60
"""Of a job with more rows than this, not counting those in folded chapters, only what comes into sight has cards,"""
ABOUT = 8
"""and so many above and below the selected one. All cards are laid out anew with each change of one: those out of sight
are let go of again where there are more than that."""


class RouteCard(QWidget):
    """Head line, values, rows, and the way to the next operation."""

    write_asked = pyqtSignal(str, str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setMinimumWidth(300)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, HEAD, 0, 0)
        layout.setSpacing(0)
        self.folding = FoldSlider(session)
        layout.addWidget(self.folding)
        self.values = ValuesStrip(session)
        self.values.hide()
        layout.addWidget(self.values)
        self._pages = QStackedWidget()
        layout.addWidget(self._pages, 1)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        inside = QWidget()
        self._rows = QVBoxLayout(inside)
        self._rows.setContentsMargins(0, 0, 0, 12)
        self._rows.setSpacing(0)
        self.heads: dict[str, ChapterHead] = {}
        self.cards: dict[str, RowCard] = {}
        self.gaps: dict[str, Gap] = {}
        self._heights: dict[str, int] = {}
        self._next = QPushButton("Next operation …")
        self._next.setFont(font(13, bold=True))
        self._next.setToolTip("the list of operations, in the order of the work (N)")
        self._next.clicked.connect(self.open_list)
        self._often = QWidget()
        often = QVBoxLayout(self._often)
        often.setContentsMargins(16, 6, 16, 0)
        often.setSpacing(2)
        self._often_layout = often
        self._offered: list[tuple[str, str]] = []
        self._empty = QLabel()
        self._empty.setFont(font(13))
        self._empty.setWordWrap(True)
        self._empty.setContentsMargins(16, 14, 16, 14)
        self._empty.setText(
            "This job is empty.\n\nFirst get a form: bring in a STEP file, or build one from numbers. "
            "Then develop its faces, place artwork on the blank, wrap it onto the form, and cut it out."
        )
        inked(self._empty, "quiet")
        button = QVBoxLayout()
        button.setContentsMargins(16, 12, 16, 0)
        button.addWidget(self._next)
        self._rows.addWidget(self._empty)
        self._rows.addLayout(button)
        self._rows.addWidget(self._often)
        self._rows.addStretch(1)
        self._scroll.setWidget(inside)
        self._pages.addWidget(self._scroll)
        self.list = OperationList()
        self.list.picked.connect(self._picked)
        self.list.left.connect(self.close_list)
        self._pages.addWidget(self.list)
        self._values_area = QRectF()
        session.job_changed.connect(self.refresh)
        session.selection_changed.connect(self.refresh)
        session.chapters_changed.connect(self.refresh)
        session.selection_changed.connect(lambda: QTimer.singleShot(0, self._show_if_out_of_sight))
        session.row_changed.connect(self._row_changed)
        session.work_changed.connect(self._work_changed)
        self.refresh()

    # --- showing -------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Shows the rows as they now are."""
        self._lay_out()
        self._empty.setVisible(not self.session.job.rows)
        self._show_often()
        self.update()

    def _lay_out(self, seen: Collection[str] = ()) -> None:
        """Makes what is missing, and shows how everything stands; where rows have been ``seen`` in a gap, these alone
        are made."""
        needed = self._needed() | set(seen)
        kept = set(self.cards) if len(self.cards) <= AT_ONCE else {key for key in self.cards if self._in_use(key)}
        column: list[QWidget | str] = []
        heads, cards = set(), set()
        for chapter in self.session.chapters:
            if chapter.name:
                column.append(self._head(chapter))
                heads.add(chapter.id)
            if self.session.is_folded(chapter):
                continue
            for row in chapter.rows:
                if row.id in needed or row.id in kept:
                    column.append(self._card(row, fresh=not seen))
                    cards.add(row.id)
                else:
                    column.append(row.id)
        self._heights.update((row_id, card.height()) for row_id, card in self.cards.items() if row_id not in cards)
        self._let_go(self.heads, heads)
        self._let_go(self.cards, cards)
        for place, widget in enumerate(self._with_gaps(column)):
            if self._rows.indexOf(widget) != place:
                self._rows.removeWidget(widget)
                self._rows.insertWidget(place, widget)
                widget.show()  # at once, so that it can have the focus

    def _needed(self) -> set[str]:
        """The rows that have cards whether they are in sight or not: all of them, or those about the selected one."""
        session = self.session
        rows = [row.id for chapter in session.chapters if not session.is_folded(chapter) for row in chapter.rows]
        if len(rows) <= AT_ONCE:
            return set(rows)
        place = rows.index(session.selected) if session.selected in rows else 0
        return set(rows[max(0, place - ABOUT) : place + ABOUT + 1])

    def _in_use(self, row_id: str) -> bool:
        """Whether a card is in sight, or typed into."""
        card, focus = self.cards[row_id], QApplication.focusWidget()
        return not card.visibleRegion().isEmpty() or (focus is not None and card.isAncestorOf(focus))

    def _with_gaps(self, column: Sequence[QWidget | str]) -> list[QWidget]:
        """With room in place of each run of rows without cards."""
        widgets: list[QWidget] = []
        gaps = set()
        for _, run in groupby(column, type):
            some = list(run)
            row_ids = [each for each in some if isinstance(each, str)]
            if row_ids:
                gaps.add(row_ids[0])
                some = [self._gap(row_ids)]
            widgets.extend(each for each in some if isinstance(each, QWidget))
        self._let_go(self.gaps, gaps)
        return widgets

    def _gap(self, row_ids: list[str]) -> Gap:
        if row_ids[0] not in self.gaps:
            self.gaps[row_ids[0]] = Gap()
            self.gaps[row_ids[0]].seen.connect(self._lay_out, Qt.ConnectionType.QueuedConnection)
        self.gaps[row_ids[0]].stand_for(row_ids, self._heights)
        return self.gaps[row_ids[0]]

    def _head(self, chapter: Chapter) -> ChapterHead:
        if chapter.id not in self.heads:
            self.heads[chapter.id] = ChapterHead(self.session)
        self.heads[chapter.id].show_chapter(chapter)
        return self.heads[chapter.id]

    def _card(self, row: Row, fresh: bool) -> RowCard:
        if row.id not in self.cards:
            self.cards[row.id] = RowCard(self.session, row)
            self.cards[row.id].write_asked.connect(self.write_asked)
            self.cards[row.id].chapter_asked.connect(self.name_chapter)
        elif fresh:
            self.cards[row.id].refresh(row)
        return self.cards[row.id]

    def _let_go(self, widgets: dict[str, Any], kept: set[str]) -> None:
        """Of what is not shown any more."""
        for row_id in [row_id for row_id in widgets if row_id not in kept]:
            widget = widgets.pop(row_id)
            self._rows.removeWidget(widget)
            widget.hide()
            widget.deleteLater()

    def name_chapter(self) -> None:
        """The selected row begins a chapter, which is to be named; one that begins with it gets another name."""
        row = self.session.selected_row
        if row is None:
            return
        if not row.chapter:
            count = sum(1 for chapter in self.session.chapters if chapter.name)
            self.session.edit("Begin a chapter", lambda job: named(job, row.id, f"Part {count + 1}"))
        head = self.heads[row.id]
        self._rows.activate()  # a new head has its width only then
        self._scroll.ensureWidgetVisible(head, 0, 20)
        head.rename()

    def fold_chapter(self) -> None:
        """Folds the chapter of the selected row, or unfolds it."""
        row = self.session.selected_row
        if row is not None:
            chapter = chapter_of(self.session.job, row.id)
            if chapter.name:
                self.session.fold_chapter(chapter.id, not self.session.is_folded(chapter))

    def show_selected(self) -> None:
        card = self.cards.get(self.session.selected or "")
        if card is not None:  # rows that have just been unfolded have their places only once all is laid out
            QCoreApplication.sendPostedEvents(None, QEvent.Type.LayoutRequest.value)
            self._scroll.ensureWidgetVisible(card, 0, 20)

    def _show_if_out_of_sight(self) -> None:
        """What was selected on a stage, or begun there, may stand far below."""
        card = self.cards.get(self.session.selected or "")
        if card is not None and card.visibleRegion().isEmpty():
            self.show_selected()

    def _row_changed(self, row_id: str) -> None:
        row = self.session.row(row_id)
        if row is not None and row_id in self.cards:
            self.cards[row_id].refresh(row)
        for head in self.heads.values():
            if head.chapter is not None and any(other.id == row_id for other in head.chapter.rows):
                head.show_chapter(head.chapter)
        if row_id == self.session.selected:
            self._show_often()

    def _work_changed(self) -> None:
        for card in self.cards.values():
            card.update()

    def _show_often(self) -> None:
        """What often comes next after the selected row."""
        offers = self._often_next()
        if offers == self._offered:
            return
        self._offered = offers
        empty(self._often_layout)
        if offers:
            label = QLabel("often next here:", self._often)
            label.setFont(font(11))
            inked(label, "quiet")
            self._often_layout.addWidget(label)
        for key, words in offers:
            link = Link(words, "adds this operation below the selected row", lambda k=key: self._picked(k), self._often)
            link.setFont(font(12))
            self._often_layout.addWidget(link)

    def _often_next(self) -> list[tuple[str, str]]:
        row = self.session.selected_row
        if row is None:
            if self.session.job.rows:
                return []
            return [(key, known.begins) for key, known in entries().items() if known.begins]
        outcome = self.session.outcome(row)
        given = row.gives if outcome is None else [result.kind for result in outcome.results]
        return [offer for kind in row.gives if kind in kinds() and kind in given for offer in kinds()[kind].follows]

    def paintEvent(self, event) -> None:
        now = theme()
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(now.paper))
        painter.setFont(font(12, bold=True))
        painter.setPen(QColor(now.ink))
        painter.drawText(QRectF(16, 0, 120, HEAD), Qt.AlignmentFlag.AlignVCenter, "ROUTE CARD")
        count = len(self.session.job.rows)
        values = len(self.session.job.values)
        painter.setFont(font(11))
        painter.setPen(QColor(now.form))
        words = "1 value" if values == 1 else f"{values or 'add'} values"
        words = "hide values" if self.values.isVisible() else words
        width = painter.fontMetrics().horizontalAdvance(words)
        self._values_area = QRectF(self.width() - 16 - width, 0, width, HEAD)
        painter.drawText(self._values_area, Qt.AlignmentFlag.AlignVCenter, words)
        painter.setPen(QColor(now.quiet))
        text = "1 operation" if count == 1 else f"{count} operations"
        area = QRectF(130, 0, self._values_area.left() - 144, HEAD)
        painter.drawText(area, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, text)
        painter.setPen(QColor(now.rule))
        painter.drawLine(0, 0, 0, self.height())
        painter.drawLine(self.width() - 1, 0, self.width() - 1, self.height())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._values_area.adjusted(-6, 0, 6, 0).contains(event.position()):
            self.toggle_values()

    def toggle_values(self) -> None:
        """Shows or hides the named values."""
        self.values.setVisible(not self.values.isVisible())
        if self.values.isVisible():
            self.values.adder.setFocus()
        self.update()

    # --- the list of operations ----------------------------------------------------------------

    def open_list(self) -> None:
        self._pages.setCurrentWidget(self.list)
        self.list.start()

    def close_list(self) -> None:
        self._pages.setCurrentWidget(self._scroll)
        card = self.cards.get(self.session.selected or "")
        (card or self._next).setFocus()

    def _picked(self, key: str) -> None:
        before = {row.id for row in self.session.job.rows}
        beside = self.session.selected
        if self.session.edit("Add an operation", lambda job: begun(job, key, beside, **entries()[key].fresh())[0]):
            new = next(row.id for row in self.session.job.rows if row.id not in before)
            self.session.select(new)
            self.close_list()
            self.show_selected()
            self._ask(self.session.job.row(new))
        else:
            self.close_list()
            self.show_selected()

    def _ask(self, row: Row) -> None:
        """Asks at once for what a new row waits for: a file, or a pick on the form."""
        lacking = next((p for p in entries()[row.operation].parameters if p.lacks(row)), None)
        if isinstance(lacking, File):
            self.cards[row.id].ask_for_file(lacking)
        elif lacking is not None and lacking.picked:
            self.session.want(Wanted(row.id, lacking.name))
