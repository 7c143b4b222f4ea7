"""The bodies of a form on its row: each with its tint, its name, and whether it is seen."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QPainter, QPen
from PyQt6.QtWidgets import QGridLayout, QLabel, QLineEdit, QWidget

from ...core.form.appearance import Looks
from ...core.form.form import Form
from ...core.job.route import Row
from ..session import Session
from ..theme import font, theme
from .link import Link

MOST = 12
"""Bodies of one form that are listed."""


class TintDot(Link):
    """A dot in a body's tint: click it, or press Enter, for the next one."""

    def __init__(self, tint: int, what: str, do: Callable[[], object]) -> None:
        super().__init__("", "the next tint", do)
        self.tint = tint
        self.setFixedSize(20, 20)
        self.setAccessibleName(f"tint of {what}")

    def paintEvent(self, event) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor(theme().form), 2.0 if self.hasFocus() else 1.2))
        painter.setBrush(QColor(theme().body_tints[self.tint]))
        painter.drawEllipse(QPointF(10, 10), 6.5, 6.5)


class BodyList(QWidget):
    """A line for each body of a form that has several."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.names: list[QLineEdit] = []
        self.dots: list[TintDot] = []
        self.links: list[Link] = []
        self._shown: tuple | None = None
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(6)
        self._grid.setVerticalSpacing(2)
        self._grid.setColumnStretch(1, 1)

    def show_form(self, row: Row, form: Form | None) -> None:
        """Lists the bodies of ``form``, which ``row`` gives; nothing where it has only one."""
        bodies = form.bodies if form is not None and len(form.bodies) > 1 else ()
        self.setVisible(bool(bodies))
        shown = (row.id, row.view, tuple(body.name for body in bodies))
        if shown == self._shown or any(name.hasFocus() and name.isModified() for name in self.names):
            return
        self._shown = shown
        while (item := self._grid.takeAt(0)) is not None:
            widget = item.widget()
            assert widget is not None
            widget.hide()
            widget.deleteLater()
        self.names, self.dots, self.links = [], [], []
        looks = Looks.of(row.view)
        for place, body in enumerate(bodies[:MOST], 1):
            said = looks.name(place, body)
            dot = TintDot(looks.tints.get(place, 0), said, lambda k=place: self._change("Tint a body", "tinted", k))
            name = QLineEdit(said)
            name.setFont(font(12))
            name.setAccessibleName(f"name of body {place}")
            name.editingFinished.connect(lambda k=place, field=name: self._named(k, field))
            hidden = looks.hides(body)
            link = Link(
                "show" if hidden else "hide",
                "shows this body again" if hidden else "hides this body",
                lambda faces=body.faces: self._change("Hide a body", "toggled", faces),
            )
            link.setEnabled(hidden or any(not looks.hides(b) for b in bodies if b is not body))
            for column, widget in enumerate((dot, name, link)):
                self._grid.addWidget(widget, place, column)
            self.names.append(name)
            self.dots.append(dot)
            self.links.append(link)
        if len(bodies) > MOST:
            more = QLabel(f"and {len(bodies) - MOST} more")
            more.setFont(font(11))
            self._grid.addWidget(more, MOST + 1, 1)

    def _named(self, place: int, field: QLineEdit) -> None:
        if field.isModified():
            field.setModified(False)
            self._change("Name a body", "named", place, field.text())

    def _change(self, what: str, how: str, *values) -> None:
        """Edits the looks of the row that is shown."""
        assert self._shown is not None
        row_id = self._shown[0]

        def changed(job):
            looks = getattr(Looks.of(job.row(row_id).view), how)(*values)
            return job.changed(row_id, view=looks.view)

        self.session.edit(what, changed)
