"""The named values of the job, at the top of the route card."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from ...core.errors import Refused
from ...core.expressions import value_of
from ..session import Session
from ..theme import font, inked
from .row_card import Link, empty


class ValuesStrip(QWidget):
    """Name and expression of each value, to be changed in place; one field to add another."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(16, 2, 16, 8)
        self._layout.setSpacing(3)
        self.fields: dict[str, QLineEdit] = {}
        self.users: dict[str, QLabel] = {}
        self.adder = QLineEdit()
        self.adder.setFont(font(12))
        self.adder.setPlaceholderText("add a value: rim = 400")
        self.adder.setToolTip("a name and a number or expression; usable in every number field")
        self.adder.returnPressed.connect(self._add)
        self.adder.installEventFilter(self)
        self._refusal = QLabel()
        self._refusal.setFont(font(11))
        self._refusal.setWordWrap(True)
        inked(self._refusal, "broken")
        self._refusal.hide()
        self._rows = QVBoxLayout()
        self._rows.setSpacing(3)
        self._layout.addLayout(self._rows)
        self._layout.addWidget(self.adder)
        self._layout.addWidget(self._refusal)
        session.job_changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        values = dict(self.session.job.values)
        if list(values) != list(self.fields):
            self._rebuild(values)
        for name, field in self.fields.items():
            if not field.hasFocus() and field.text() != values[name]:
                field.setText(values[name])
            field.setToolTip(self._meaning(values[name]))
            words, tip = self._where(name)
            self.users[name].setText(words)
            self.users[name].setToolTip(tip)

    def _where(self, name: str) -> tuple[str, str]:
        """Where a value is used, in short and in full."""
        rows, others = self.session.job.users(name)
        named = [f"row {row.number}, {row.name}" for row in rows] + [f"the value {other}" for other in others]
        count = len(named)
        short = "not used" if not count else f"used {count} times" if count > 1 else "used once"
        return short, "\n".join(named)

    def _meaning(self, text: str) -> str:
        try:
            return f"= {value_of(text, self.session.job.numbers):g}"
        except Refused as error:
            return error.sentence

    def _rebuild(self, values: dict[str, str]) -> None:
        empty(self._rows)
        self.fields, self.users = {}, {}
        for name, text in values.items():
            line = QWidget()
            layout = QHBoxLayout(line)
            layout.setContentsMargins(0, 0, 0, 0)
            label = QLabel(name)
            label.setFont(font(12, bold=True))
            label.setFixedWidth(110)
            field = QLineEdit(text)
            field.setFont(font(12))
            field.setAccessibleName(f"value {name}")
            field.textEdited.connect(lambda typed, n=name: self._typed(n, typed))
            field.editingFinished.connect(self._finished)
            remove = Link("remove", f"takes the value {name} away", lambda n=name: self._remove(n))
            layout.addWidget(label)
            layout.addWidget(field, 1)
            users = QLabel()
            users.setFont(font(11))
            inked(users, "quiet")
            self.users[name] = users
            layout.addWidget(users)
            layout.addWidget(remove)
            self.fields[name] = field
            self._rows.addWidget(line)

    def _typed(self, name: str, text: str) -> None:
        self._say(self.session.attempt(f"Change {name}", lambda job: job.with_value(name, text), f"value.{name}"))

    def _finished(self) -> None:
        self.session.end_step()
        self._say("")
        self.refresh()

    def _add(self) -> None:
        name, equals, text = self.adder.text().partition("=")
        if not equals:
            self._say("Write a name, = and a number, such as rim = 400.")
            return
        why = self.session.attempt(f"Add {name.strip()}", lambda job: job.with_value(name.strip(), text.strip()))
        self._say(why)
        if not why:
            self.adder.clear()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """What was wrong with a value that was to be added is no longer said once its field is left."""
        if event.type() == QEvent.Type.FocusOut:
            self._say("")
        return False

    def _remove(self, name: str) -> None:
        self._say(self.session.attempt(f"Remove {name}", lambda job: job.with_value(name, None)))

    def _say(self, text: str) -> None:
        self._refusal.setText(text)
        self._refusal.setVisible(bool(text))
