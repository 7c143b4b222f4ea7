"""An operation as a sentence with values in it, and clauses that stand where they say something."""

from __future__ import annotations

import re
from dataclasses import dataclass, field

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QLabel, QMenu, QSizePolicy, QWidget

from ...core.figures.registry import FigureEntry
from ...core.job.route import Row
from ...core.operations.registry import Clause, Entry
from ...core.parameters.parameter import Parameter
from ..session import Session
from ..theme import font
from .flow import Flow
from .link import Link
from .value_chip import ValueChip


@dataclass
class Shown:
    """A clause with the names of its values and the widgets that it is made of."""

    clause: Clause
    names: list[str] = field(default_factory=list)
    widgets: list[QWidget] = field(default_factory=list)


class Sentence(QWidget):
    """Words and chips in the order of a sentence, an operation's or a figure's. A link offers what else can be said."""

    refused = pyqtSignal(str)

    def __init__(self, session: Session, row: Row, known: Entry | FigureEntry, side: str) -> None:
        super().__init__()
        self.session, self.row, self.known = session, row, known
        self.chips: dict[str, ValueChip] = {}
        self._flow = Flow(self)
        self._side = side
        self._opened: set[str] = set()
        self._set_words(known.sentence)
        self._clauses = []
        for clause in known.clauses:
            names, widgets = self._set_words(clause.words)
            self._clauses.append(Shown(clause, names, widgets))
        self.more = Link("and …", "what else can be said of it", self._offer_more, self)
        self.more.setFont(font(13))
        self._flow.addWidget(self.more)
        policy = QSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        self._show_clauses()

    def _set_words(self, sentence: str) -> tuple[list[str], list[QWidget]]:
        names: list[str] = []
        widgets: list[QWidget] = []
        for words, name, tail in _parts(sentence):
            for word in words.split():
                label = QLabel(f"{word} ", self)
                label.setFont(font(13))
                self._flow.addWidget(label)
                widgets.append(label)
            if name:
                chip = ValueChip(self.session, self.row, self._parameter(name), self._side, tail)
                chip.setParent(self)
                chip.refused.connect(self.refused)
                self.chips[name] = chip
                self._flow.addWidget(chip)
                names.append(name)
                widgets.append(chip)
        return names, widgets

    def show_row(self, row: Row) -> None:
        self.row = row
        for chip in self.chips.values():
            chip.show_row(row)
        self._show_clauses()

    def _says(self, shown: Shown) -> bool:
        """Whether a clause stands: it was opened here, or one of its values is not as it is by itself."""
        known = [self._parameter(name) for name in shown.names]
        return shown.clause.offer in self._opened or any(str(p.written(self.row)) != str(p.default) for p in known)

    def _parameter(self, name: str) -> Parameter:
        """The value of that name; one of a figure has its row's value before it."""
        return next(p for p in self.known.parameters if p.name.rpartition(".")[2] == name)

    def _show_clauses(self) -> None:
        left = False
        for shown in self._clauses:
            says = self._says(shown)
            left = left or not says
            for widget in shown.widgets:
                widget.setVisible(says)
        self.more.setVisible(left)
        self._flow.invalidate()
        self.updateGeometry()

    def _offer_more(self) -> None:
        menu = QMenu(self)
        menu.setFont(font(13))
        for shown in self._clauses:
            if not self._says(shown):
                action = QAction(shown.clause.offer, menu)
                action.triggered.connect(lambda _, s=shown: self.open_clause(s.clause.offer))
                menu.addAction(action)
        menu.popup(self.more.mapToGlobal(self.more.rect().bottomLeft()))
        self.menu = menu

    def open_clause(self, offer: str) -> None:
        """Lets a clause stand, and begins with its first value."""
        self._opened.add(offer)
        self._show_clauses()
        shown = next(s for s in self._clauses if s.clause.offer == offer)
        self.chips[shown.names[0]].setFocus(Qt.FocusReason.OtherFocusReason)

    @property
    def editing(self) -> bool:
        return any(chip.editor is not None for chip in self.chips.values())


def _parts(sentence: str) -> list[tuple[str, str, str]]:
    """Words before a value, the value's name, and the punctuation that clings to it."""
    parts = []
    for match in re.finditer(r"([^{]*)(?:\{(\w+)\}([,.;:]?)|$)", sentence):
        words, name, tail = match.groups()
        if words.strip() or name:
            parts.append((words, name or "", tail or ""))
    return parts
