"""An operation as a sentence with values in it."""

from __future__ import annotations

import re

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QLabel, QSizePolicy, QWidget

from ..core.operations.registry import Entry
from ..core.route import Row
from .flow import Flow
from .session import Session
from .theme import font
from .value_chip import ValueChip


class Sentence(QWidget):
    """Words and chips in the order of the operation's sentence."""

    refused = pyqtSignal(str)

    def __init__(self, session: Session, row: Row, known: Entry) -> None:
        super().__init__()
        self.chips: dict[str, ValueChip] = {}
        flow = Flow(self)
        side = "blank" if known.stage in ("blank", "blank>form") else "form"
        for words, name, tail in _parts(known.type.sentence):
            for word in words.split():
                label = QLabel(f"{word} ")
                label.setFont(font(13))
                flow.addWidget(label)
            if name:
                chip = ValueChip(session, row, known.parameter(name), side, tail)
                chip.refused.connect(self.refused)
                self.chips[name] = chip
                flow.addWidget(chip)
        policy = QSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)

    def show_row(self, row: Row) -> None:
        for chip in self.chips.values():
            chip.show_row(row)

    @property
    def editing(self) -> bool:
        return any(chip.editor is not None for chip in self.chips.values())


def _parts(sentence: str) -> list[tuple[str, str, str]]:
    """Words before a value, the value's name, and the punctuation that clings to it."""
    parts = []
    for match in re.finditer(r"([^{]*)(?:\{(\w+)\}([,.;]?)|$)", sentence):
        words, name, tail = match.groups()
        if words.strip() or name:
            parts.append((words, name or "", tail or ""))
    return parts
