"""A field on a stage, where a number stands: typed, it is shown at once; Enter takes it, Esc leaves it as it was."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QRectF, Qt
from PyQt6.QtWidgets import QLineEdit, QWidget

from ...core.parameters.parameter import Parameter
from ..session import Session
from ..theme import font, inked

ROOM = 40
"""How much wider than its number a field is, in pixels."""


class NumberField(QLineEdit):
    """Edits the value ``parameter`` of a row over ``area`` of a stage."""

    def __init__(self, stage: QWidget, session: Session, row_id: str, parameter: Parameter, area: QRectF) -> None:
        row = session.row(row_id)
        assert row is not None
        self.session, self.row_id, self.parameter = session, row_id, parameter
        self.original = parameter.written(row)
        super().__init__(parameter.typed(session.job, row), stage)
        self._bad = False
        self.setFont(font(12))
        self.setAccessibleName(parameter.hint)
        self.setGeometry(area.toRect().adjusted(-ROOM // 2, -4, ROOM // 2, 4))
        self.textEdited.connect(self._typed)
        session.end_step()
        self.show()
        self.selectAll()
        self.setFocus()

    def _typed(self, text: str) -> None:
        why = self._set(self.parameter.kept(self.session.job, text))
        self._bad = bool(why)
        inked(self, "broken" if why else "")
        self.setToolTip(why)

    def _set(self, value) -> str:
        name, row_id = self.parameter.name, self.row_id
        return self.session.attempt(
            f"Change {self.parameter.hint}", lambda job: job.set(row_id, name, value), merge=f"{row_id}.{name}"
        )

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):  # type: ignore[attr-defined]
            if not self._bad:
                self._leave()
            return True
        if event.type() == QEvent.Type.KeyPress and event.key() == Qt.Key.Key_Escape:  # type: ignore[attr-defined]
            self._set(self.original)
            self._leave()
            return True
        if event.type() == QEvent.Type.FocusOut:
            self._leave()
        return super().event(event)

    def _leave(self) -> None:
        if not self.isHidden():
            self.hide()
            self.session.end_step()
            self.deleteLater()
            parent = self.parentWidget()
            if parent is not None:
                parent.setFocus()
