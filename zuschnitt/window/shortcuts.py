"""The keys, in one table, and the sheet that shows them."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QPainter
from PyQt6.QtWidgets import QDialog

from .theme import font, theme

KEYS: dict[str, tuple[tuple[str, str, str], ...]] = {
    "Job": (
        ("Ctrl+N", "new", "new job"),
        ("Ctrl+O", "open", "open a job"),
        ("Ctrl+S", "save", "save"),
        ("Ctrl+Shift+S", "save_as", "save under another name"),
        ("Ctrl+Z", "undo", "undo"),
        ("Ctrl+Shift+Z", "redo", "redo"),
        ("Ctrl+.", "stop", "stop what is being computed"),
        ("F10", "menu", "job menu"),
        ("F1", "keys", "this sheet"),
    ),
    "Route card": (
        ("N", "next", "next operation"),
        ("V", "values", "named values"),
        ("Page Up", "row_before", "row before"),
        ("Page Down", "row_after", "row after"),
        ("Alt+Up", "row_up", "move the row up"),
        ("Alt+Down", "row_down", "move the row down"),
        ("O", "row_off", "switch the row off or on"),
        ("X", "row_unseen", "hide what it draws, or show it"),
        ("T", "name_chapter", "begin a chapter, or name it"),
        ("D", "fold_chapter", "fold or unfold the chapter"),
        ("Delete", "row_remove", "remove the row"),
    ),
    "Faces of the form": (
        ("A", "all_faces", "pick all faces"),
        ("K", "same_kind", "pick all of that kind"),
        ("B", "same_body", "pick the whole body"),
        ("I", "other_faces", "pick the others instead"),
        ("H", "hide_face", "hide the face under the mouse"),
        ("Shift+H", "show_faces", "show what is hidden"),
    ),
    "Stages": (
        ("F2", "form_wide", "form at full width, or back"),
        ("F3", "card_wide", "route card at full width, or back"),
        ("F4", "blank_wide", "blank at full width, or back"),
        ("S", "stretch", "stretch, compression, or none"),
        ("F", "fit", "all in sight"),
        ("J", "bodies", "all bodies of the job, or one"),
        ("P", "fold", "play flat to formed, bends or cuts"),
        ("1", "view_corner", "form from a corner"),
        ("2", "view_front", "form from the front"),
        ("3", "view_right", "form from the right"),
        ("4", "view_back", "form from the back"),
        ("5", "view_left", "form from the left"),
        ("6", "view_top", "form from the top"),
        ("7", "view_bottom", "form from below"),
    ),
}
"""Group: (key, name of the window's action, what it does)."""

ALSO = (
    ("Tab", "next value or field"),
    ("Enter", "edit the value; take what was typed"),
    ("Esc", "leave it as it was"),
    ("↑ ↓", "a value by steps; with Shift by ten"),
    ("← → ↑ ↓", "on the form: turn; on the blank: move the artwork, or the view"),
    ("+ −", "zoom"),
)


class KeySheet(QDialog):
    """All keys on one sheet."""

    def __init__(self, parent=None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys")
        self.setFixedSize(1236, 500)

    def paintEvent(self, event) -> None:
        now = theme()
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(now.paper))
        for column, (group, rows) in enumerate(KEYS.items()):
            x = 24 + column * 305
            painter.setFont(font(13, bold=True))
            painter.setPen(QColor(now.form))
            painter.drawText(QRectF(x, 18, 230, 24), Qt.AlignmentFlag.AlignVCenter, group)
            for i, (key, _, words) in enumerate(rows):
                self._line(painter, x, 48 + 23 * i, key, words, 295)
        for i, (key, words) in enumerate(ALSO):
            self._line(painter, 24, 338 + 23 * i, key, words, 880)

    @staticmethod
    def _line(painter: QPainter, x: float, y: float, key: str, words: str, width: float) -> None:
        now = theme()
        painter.setFont(font(12, bold=True))
        painter.setPen(QColor(now.ink))
        painter.drawText(QRectF(x, y, 100, 20), Qt.AlignmentFlag.AlignVCenter, key)
        painter.setFont(font(12))
        painter.setPen(QColor(now.quiet))
        painter.drawText(QRectF(x + 100, y, width - 100, 20), Qt.AlignmentFlag.AlignVCenter, words)
