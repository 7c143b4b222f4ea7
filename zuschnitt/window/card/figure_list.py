"""The figures of a drawing on its row: a line for each, the picked one with its values to edit."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QAction, QMouseEvent
from PyQt6.QtWidgets import QGridLayout, QLabel, QMenu, QWidget

from ...core.figures.figures_value import OWN, Figures
from ...core.figures.registry import GROUPS, figure_entries, figure_entry
from ...core.job.route import Row
from ...core.parameters.parameter import Parameter
from ..drawing import figures_of, with_figure, without_figures
from ..session import Session
from ..theme import font, inked
from .link import Link
from .sentence import Sentence

if TYPE_CHECKING:
    from ...core.figures.registry import FigureEntry

MOST = 40
"""Figures of one row that are listed."""


class FigureLine(QLabel):
    """A figure that is not picked, in one line; a click picks it, with Shift it is picked as well."""

    def __init__(self, session: Session, number: int, text: str) -> None:
        super().__init__(text)
        self.session, self.number = session, number
        self.setFont(font(12))
        self.setWordWrap(True)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(f"figure {number}: {text}")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        more = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        self.session.pick_figures({self.number} | (self.session.figures if more else set()))

    def keyPressEvent(self, event) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.session.pick_figures({self.number})
        else:
            super().keyPressEvent(event)


class FigureList(QWidget):
    """The figures of a row, and what can be drawn next."""

    refused = pyqtSignal(str)

    def __init__(self, session: Session, row: Row) -> None:
        super().__init__()
        self.session, self.row = session, row
        found = figures_of(row)
        assert found is not None
        self.parameter: Figures = found
        self.sentences: dict[int, Sentence] = {}
        self._shown: tuple = ()
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(3)
        self._grid.setColumnStretch(1, 1)
        self.add = Link("draw …", "a figure, then click where it is to be", self._offer, self)
        self.remove = Link("remove", "takes the picked figures away (Delete)", self._remove, self)
        self.add.setFont(font(12))
        self.remove.setFont(font(12))
        session.figures_changed.connect(self._again)
        self.show_row(row)

    @property
    def editing(self) -> bool:
        return any(sentence.editing for sentence in self.sentences.values())

    def _again(self) -> None:
        self.show_row(self.session.row(self.row.id) or self.row)

    def show_row(self, row: Row) -> None:
        """Shows the figures as they now are; while one of them is edited, nothing is made anew."""
        self.row = row
        lines = self.parameter.written(row) or []
        for sentence in self.sentences.values():
            sentence.show_row(row)
        kinds = tuple((int(line["number"]), str(line["figure"])) for line in lines)
        picked = frozenset(self.session.figures)
        texts = tuple(self._reads(line) for line in lines if int(line["number"]) not in picked)
        shown = (kinds, picked, texts)
        if shown == self._shown or (self.editing and kinds == self._shown[0] and picked == self._shown[1]):
            return
        self._shown = shown
        self._empty()
        only = len(picked) == 1
        place = 0
        for line in lines[:MOST]:
            number = int(line["number"])
            chosen = number in picked
            label = QLabel(str(number))
            label.setFont(font(12, bold=chosen))
            inked(label, "blank" if chosen else "quiet")
            top = Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignRight
            self._grid.addWidget(label, place, 0, top)
            known = str(line["figure"]) in figure_entries()
            shown_as = self._sentence(number) if chosen and only and known else self._line(line, chosen)
            self._grid.addWidget(shown_as, place, 1)
            place += 1
        if len(lines) > MOST:
            self._grid.addWidget(QLabel(f"and {len(lines) - MOST} more"), place, 1)
            place += 1
        foot = QWidget()
        row_of_links = QGridLayout(foot)
        row_of_links.setContentsMargins(0, 0, 0, 0)
        row_of_links.setColumnStretch(2, 1)
        row_of_links.addWidget(self.add, 0, 0)
        row_of_links.addWidget(self.remove, 0, 1)
        self.add.show()
        self.remove.setVisible(bool(picked))
        self._grid.addWidget(foot, place, 1)
        self.updateGeometry()

    def _empty(self) -> None:
        self.sentences = {}
        self.add.setParent(self)
        self.remove.setParent(self)
        while (item := self._grid.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None and widget not in (self.add, self.remove):
                widget.hide()
                widget.deleteLater()

    def _entry(self, number: int) -> FigureEntry:
        return self.parameter.entry_of(self.parameter.written(self.row), number).within(
            f"{self.parameter.name}.{number}"
        )

    def _sentence(self, number: int) -> Sentence:
        sentence = Sentence(self.session, self.row, self._entry(number), "blank")
        sentence.refused.connect(self.refused)
        self.sentences[number] = sentence
        return sentence

    def _line(self, line: dict, chosen: bool) -> FigureLine:
        shown = FigureLine(self.session, int(line["number"]), self._reads(line))
        if chosen:
            inked(shown, "blank")
        return shown

    def _reads(self, line: dict) -> str:
        """The sentence of a figure, with its values in it."""
        if str(line["figure"]) not in figure_entries():
            return f"a figure of a kind that this version does not know: {line['figure']}"
        entry = self._entry(int(line["number"]))
        known: dict[str, Parameter] = {p.name.rpartition(".")[2]: p for p in entry.parameters}
        return re.sub(r"\{(\w+)\}", lambda m: known[m[1]].reads(self.session.job, self.row), entry.sentence)

    def _remove(self) -> None:
        without_figures(self.session, self.row, self.session.figures)

    def _offer(self) -> None:
        menu = QMenu(self)
        menu.setFont(font(13))
        for group in GROUPS:
            head = QAction(group, menu)
            head.setFont(font(11, bold=True))
            head.setEnabled(False)
            menu.addAction(head)
            for entry in figure_entries().values():
                if entry.group == group:
                    action = QAction(entry.title, menu)
                    action.setToolTip(entry.says)
                    action.triggered.connect(lambda _, key=entry.key: self.begin(key))
                    menu.addAction(action)
        menu.setToolTipsVisible(True)
        menu.popup(self.add.mapToGlobal(self.add.rect().bottomLeft()))
        self.menu = menu

    def begin(self, key: str) -> None:
        """A placed figure waits for a click on the blank; one that is made of others takes those that are picked."""
        entry = figure_entry(key)
        if entry.placed:
            self.session.place_next(key)
            return
        picked = sorted(self.session.figures)
        names = [p.name for p in entry.parameters if p.name not in OWN]
        values = {}
        if "of" in names and picked:
            split = 1 if {"other", "by"} & set(names) and len(picked) > 1 else len(picked)
            values["of"] = ", ".join(map(str, picked[:split]))
            for name in ("other", "by"):
                if name in names:
                    values[name] = ", ".join(map(str, picked[split:]))
        with_figure(self.session, self.row.id, key, values)
