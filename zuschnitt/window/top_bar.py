"""The top line: job, material and unit, progress, whether it is saved."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QAction, QColor, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QCompleter, QHBoxLayout, QLineEdit, QMenu, QToolButton, QWidget

from ..core.materials import known_names
from ..core.units import UNITS, kept, typed
from .name_field import NameField
from .session import Session
from .theme import font, inked, theme

HEIGHT = 40


class TopBar(QWidget):
    """The job's name opens the job menu; the pills are edited where they stand."""

    menu_asked = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedHeight(HEIGHT)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(10, 0, 12, 0)
        self.job_button = QToolButton()
        self.job_button.setFont(font(14, bold=True))
        self.job_button.setAutoRaise(True)
        self.job_button.setProperty("look", "word")
        self.job_button.setToolTip("new, open, save, undo, write files … (F10)")
        self.job_button.clicked.connect(self.menu_asked)
        layout.addWidget(self.job_button)
        layout.addStretch(1)
        self.material = self._field("material: one of the table gives a verdict for each blank", 150)
        completer = QCompleter(list(known_names()), self)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.material.setCompleter(completer)
        self.thickness = self._field("thickness; the named value thickness", 88)
        self.material.editingFinished.connect(self._material_given)
        self.thickness.editingFinished.connect(self._thickness_given)
        layout.addWidget(self.material)
        layout.addWidget(self.thickness)
        self.unit = QToolButton()
        self.unit.setFont(font(12))
        self.unit.setAutoRaise(True)
        self.unit.setToolTip("the unit in which lengths are shown and typed; files and reports stay in mm")
        self.unit.setAccessibleName("unit of lengths")
        self.unit.setProperty("look", "word")
        self.unit.clicked.connect(self._choose_unit)
        layout.addWidget(self.unit)
        layout.addStretch(1)
        self.stop = QToolButton()
        self.stop.setText("stop")
        self.stop.setFont(font(12, bold=True))
        self.stop.setAutoRaise(True)
        self.stop.setProperty("look", "word")
        inked(self.stop, "form")
        self.stop.setToolTip("stops what is being computed (Ctrl+.)")
        self.stop.clicked.connect(session.stop)
        layout.addSpacing(290)
        layout.addWidget(self.stop)
        for signal in (session.job_changed, session.saved_changed, session.work_changed):
            signal.connect(self.refresh)
        self.refresh()

    def rename(self) -> None:
        """The job's name becomes a field."""

        def given(name: str) -> None:
            self.session.edit("Rename the job", lambda job: replace(job, name=name))

        area = self.job_button.geometry().adjusted(0, 2, 120, -2)
        self.naming = NameField(self, area, self.session.job.name, given, "name of the job")

    def _field(self, tip: str, width: int) -> QLineEdit:
        field = QLineEdit()
        field.setFont(font(12))
        field.setFixedSize(width, 25)
        field.setAlignment(Qt.AlignmentFlag.AlignCenter)
        field.setToolTip(tip)
        field.setAccessibleName(tip)
        field.setProperty("look", "pill")
        return field

    def _material_given(self) -> None:
        text = self.material.text().strip()
        self.session.edit("Change the material", lambda job: job.with_material(text))

    def _thickness_given(self) -> None:
        text = self.thickness.text().strip()
        if text == self._thickness_words():
            return
        unit = self.session.job.unit
        text = kept(text.removesuffix(unit).strip(), unit)

        def change(job):
            changed = replace(job, thickness=text)
            changed.check_numbers()
            return changed

        if not self.session.edit("Change the thickness", change):
            self.refresh()

    def refresh(self) -> None:
        job = self.session.job
        mark = " •" if self.session.unsaved else ""
        self.job_button.setText(f"{job.name}{mark}  ▾")
        for field, text in ((self.material, job.material), (self.thickness, self._thickness_words())):
            if not field.hasFocus() and field.text() != text:
                field.setText(text)
        self.unit.setText(f"{job.unit} ▾")
        self.stop.setVisible(self.session.running is not None)
        self.update()

    def _thickness_words(self) -> str:
        job = self.session.job
        return f"{typed(job.thickness, job.unit)} {job.unit}"

    def _choose_unit(self) -> None:
        """A menu of the units in which lengths are shown and typed."""
        menu = QMenu(self)
        menu.setFont(font(13))
        for unit, words in UNITS.items():
            action = QAction(f"lengths in {unit} ({words})", menu)
            action.setCheckable(True)
            action.setChecked(unit == self.session.job.unit)
            action.triggered.connect(
                lambda _, u=unit: self.session.edit(f"Show lengths in {u}", lambda job: job.with_unit(u))
            )
            menu.addAction(action)
        self.units = menu
        menu.popup(self.unit.mapToGlobal(self.unit.rect().bottomLeft()))

    def _saved_words(self) -> str:
        if self.session.unsaved:
            return "not saved yet" if self.session.path is None else "unsaved changes"
        if self.session.saved_at is not None:
            return f"saved {self.session.saved_at:%H:%M}"
        return ""

    def paintEvent(self, event) -> None:
        now = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(now.paper))
        painter.setPen(QColor(now.rule))
        painter.drawLine(0, HEIGHT - 1, self.width(), HEIGHT - 1)
        painter.setFont(font(11))
        painter.setPen(QColor(now.quiet))
        x = self.job_button.geometry().right() + 8
        painter.drawText(QRectF(x, 0, 160, HEIGHT), Qt.AlignmentFlag.AlignVCenter, self._saved_words())
        running = self.session.running
        if running is None:
            return
        row = self.session.row(running[0])
        right = self.stop.geometry().left() - 10
        bar = QRectF(right - 110, HEIGHT / 2 - 3, 110, 6)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(now.rule))
        painter.drawRoundedRect(bar, 3, 3)
        painter.setBrush(QColor(now.form))
        painter.drawRoundedRect(QRectF(bar.left(), bar.top(), max(6.0, bar.width() * running[1]), 6), 3, 3)
        painter.setPen(QPen(QColor(now.quiet)))
        words = f"row {row.number} · {running[2] or 'working'}" if row is not None else running[2]
        area = QRectF(bar.left() - 200, 0, 190, HEIGHT)
        text = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, 190)
        painter.drawText(area, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, text)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
