"""A value in a sentence: shown underlined, edited where it stands, scrubbed with the mouse."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QAction, QColor, QFocusEvent, QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QLineEdit, QMenu, QWidget

from ...core.job.route import Row
from ...core.parameters.file import File
from ...core.parameters.number import Number
from ...core.parameters.parameter import Parameter
from ...core.units import STEPS, kept, shown
from ..file_dialogs import ask_to_open
from ..session import Session, Wanted
from ..theme import font, inked, theme

SCRUB = 3
"""Pixels to pass before a press becomes scrubbing, and pixels for one step after that."""


class ValueChip(QWidget):
    """Shows parameter ``parameter`` of a row. ``refused`` tells why what is being typed is no good."""

    refused = pyqtSignal(str)

    def __init__(self, session: Session, row: Row, parameter: Parameter, side: str, tail: str = "") -> None:
        super().__init__()
        self.session, self.row, self.parameter, self.side = session, row, parameter, side
        self._tail = tail
        self._unit = session.job.unit
        self.editor: QLineEdit | None = None
        self._pressed: QPointF | None = None
        self._scrubbed = 0
        self._begin = 0.0
        self._bad = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setMouseTracking(True)
        self.setAttribute(Qt.WidgetAttribute.WA_Hover)
        session.wanted_changed.connect(self.update)
        self._describe()

    # --- what it says --------------------------------------------------------------------------

    @property
    def written(self):
        """The value as it is written in the job."""
        return self.parameter.written(self.row)

    def show_row(self, row: Row) -> None:
        if row != self.row or self._unit != self.session.job.unit:
            self.row, self._unit = row, self.session.job.unit
            self._describe()
            self.updateGeometry()
            self.update()

    def _describe(self) -> None:
        parameter = self.parameter
        self.setToolTip(f"{parameter.hint}\n{parameter.how}")
        self.setAccessibleName(f"{parameter.hint}: {self.words}")

    @property
    def words(self) -> str:
        """How the value reads in the sentence."""
        return self.parameter.reads(self.session.job, self.row)

    def sizeHint(self) -> QSize:
        if self.editor is not None:
            return QSize(max(90, self._width(self.words) + 16) + self._width(self._tail, False), 24)
        return QSize(self._width(self.words) + self._width(self._tail, False) + 6, 24)

    def minimumSizeHint(self) -> QSize:
        return QSize(12, 24)

    def _width(self, text: str, bold: bool = True) -> int:
        return QFontMetrics(font(13, bold)).horizontalAdvance(text)

    def paintEvent(self, event: QEvent) -> None:
        now = theme()
        painter = QPainter(self)
        colour = QColor(now.form if self.side == "form" else now.blank)
        tail = self._width(self._tail, False)
        area = QRectF(0, 0, self.width() - tail - 6, self.height())
        wanted = self.session.wanted == Wanted(self.row.id, self.parameter.name)
        if self.editor is None:
            if wanted or self.hasFocus() or self.underMouse():
                painter.fillRect(
                    area.adjusted(-1, 2, 2, -2), QColor(now.form_tint if self.side == "form" else now.blank_tint)
                )
            painter.setFont(font(13, bold=True))
            painter.setPen(colour)
            text = painter.fontMetrics().elidedText(self.words, Qt.TextElideMode.ElideRight, int(area.width()) + 2)
            painter.drawText(area.adjusted(1, 0, 4, 0), Qt.AlignmentFlag.AlignVCenter, text)
            painter.setPen(QPen(colour, 1.4 if not self.hasFocus() else 2.2))
            painter.drawLine(QPointF(1, 21), QPointF(area.right(), 21))
        painter.setPen(QColor(now.ink))
        painter.setFont(font(13))
        painter.drawText(
            QRectF(self.width() - tail - 5, 0, tail + 5, self.height()), Qt.AlignmentFlag.AlignVCenter, self._tail
        )

    # --- editing -------------------------------------------------------------------------------

    def open(self) -> None:
        """Begins to edit, in the way that fits the value."""
        if self.parameter.listed:
            return
        if isinstance(self.parameter, File) and self.parameter.names_in(self.session.job) <= {self.written}:
            self.ask()
            return
        if self.parameter.chosen:
            self._choose()
            return
        if self.parameter.picked:
            self.session.want(Wanted(self.row.id, self.parameter.name))
        self._open_editor()

    def _open_editor(self) -> None:
        if self.editor is not None:
            return
        self._original = self.written
        self.session.end_step()
        self.editor = QLineEdit(self.parameter.typed(self.session.job, self.row), self)
        self.editor.setFont(font(13))
        self.editor.setAccessibleName(self.parameter.hint)
        if self.parameter.words:
            self.editor.setPlaceholderText(self.parameter.words)
        self.editor.textEdited.connect(self._typed)
        self.editor.installEventFilter(self)
        self.updateGeometry()
        self._place_editor()
        self.editor.show()
        self.editor.selectAll()
        self.editor.setFocus()

    def _place_editor(self) -> None:
        if self.editor is not None:
            self.editor.setGeometry(0, 0, self.width() - self._width(self._tail, False) - 6, 24)

    def resizeEvent(self, event) -> None:
        self._place_editor()

    def _typed(self, text: str) -> None:
        """Shows the result while one types; what is no good changes nothing and says why."""
        why = self._set(self.parameter.kept(self.session.job, text))
        self._bad = bool(why)
        if self.editor is not None:
            inked(self.editor, "broken" if why else "")
        self.refused.emit(why)

    def _set(self, value) -> str:
        name, row_id = self.parameter.name, self.row.id
        return self.session.attempt(
            f"Change {self.parameter.hint}", lambda job: job.set(row_id, name, value), merge=f"{row_id}.{name}"
        )

    def eventFilter(self, watched, event) -> bool:
        if watched is self.editor and self.editor is not None:
            if event.type() == QEvent.Type.KeyPress:
                if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                    if not self._bad:
                        self.session.want(None)
                        self._close_editor(focus=True)
                    return True
                if event.key() == Qt.Key.Key_Escape:
                    self._set(self._original)
                    self.session.want(None)
                    self._close_editor(focus=True)
                    return True
            elif event.type() == QEvent.Type.FocusOut and event.reason() != Qt.FocusReason.PopupFocusReason:
                self._close_editor(focus=False)
        return super().eventFilter(watched, event)

    def _close_editor(self, focus: bool) -> None:
        editor, self.editor = self.editor, None
        if editor is None:
            return
        editor.hide()
        editor.deleteLater()
        if self._bad:
            self._bad = False
            self.refused.emit("")
        self.session.end_step()
        self.updateGeometry()
        self.update()
        if focus:
            self.setFocus()

    def _choose(self) -> None:
        menu = QMenu(self)
        menu.setFont(font(13))
        for value, words in self.parameter.options(self.session.job, self.row):
            action = QAction(words, menu)
            action.setCheckable(True)
            action.setChecked(value == self.written)
            action.triggered.connect(lambda _, v=value: self._chosen(v))
            menu.addAction(action)
        if isinstance(self.parameter, File):
            menu.addSeparator()
            action = QAction("Choose a file …", menu)
            action.triggered.connect(self.ask)
            menu.addAction(action)
        menu.popup(self.mapToGlobal(self.rect().bottomLeft()))
        self.menu = menu

    def _chosen(self, value: str) -> None:
        if value != self.written:
            self.session.end_step()
            why = self._set(value)
            self.session.end_step()
            if why:
                self.session.said.emit(why, "problem")

    def ask(self) -> None:
        """A dialog for the file."""
        assert isinstance(self.parameter, File)
        hint, endings = self.parameter.hint, " ".join(f"*{e}" for e in self.parameter.endings)
        ask_to_open(self.window(), hint, f"{hint} ({endings})", self.bring)

    def bring(self, path: Path) -> None:
        """Puts a file into the job and this value."""
        asset = self.session.bring_asset(path)
        if asset is None:
            return
        row_id, name = self.row.id, self.parameter.name
        self.session.edit(f"Bring {asset.name} in", lambda job: job.with_asset(asset).set(row_id, name, asset.name))

    # --- mouse and keys ------------------------------------------------------------------------

    def _plain(self) -> float | None:
        """The number, if a plain one is written or nothing but a number results."""
        return self.parameter.plain(self.session.job, self.row)

    def _step_to(self, value: float) -> None:
        assert isinstance(self.parameter, Number)
        low = self.parameter.low if self.parameter.low is not None else -float("inf")
        unit = self.session.job.unit if self.parameter.unit == "mm" else "mm"
        text = f"{max(value, low):.4f}".rstrip("0").rstrip(".") if unit == "mm" else shown(max(value, low), unit)
        self._set(kept("0" if text == "-0" else text, unit))

    def _step(self) -> float:
        unit = self.parameter.unit if isinstance(self.parameter, Number) else "mm"
        return STEPS[self.session.job.unit] if unit == "mm" else 0.01 if unit == "" else 1.0

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pressed = event.position()
        self._scrubbed = 0
        self._begin = self._plain() or 0.0
        self.session.end_step()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is None or self._plain() is None:
            return
        steps = int((event.position().x() - self._pressed.x()) / SCRUB)
        if steps != self._scrubbed and (abs(steps) > 1 or self._scrubbed):
            self._scrubbed = steps
            fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self._step_to(self._begin + steps * self._step() * (0.1 if fine else 1))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, self._pressed = self._pressed, None
        if self._scrubbed:
            self._scrubbed = 0
            self.session.end_step()
        elif pressed is not None:
            self.open()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        number = self._plain()
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space, Qt.Key.Key_F2):
            self.open()
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and number is not None:
            size = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            up = 1 if event.key() == Qt.Key.Key_Up else -1
            self._step_to(number + up * size * self._step())
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.update()
