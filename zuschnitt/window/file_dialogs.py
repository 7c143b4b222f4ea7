"""Asks for files: in the folder used last, by an earlier window too, and under names that say what is in them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QWidget

from ..core.job.route import Row
from .recent import last_folder, remember_folder
from .session import Session


def asked_to_open(over: QWidget | None, title: str, kinds: str) -> Path | None:
    """A file to be read; None where nobody chose one."""
    name, _ = QFileDialog.getOpenFileName(over, title, str(last_folder()), kinds)
    return _used(name)


def ask_to_open(over: QWidget | None, title: str, kinds: str, then: Callable[[Path], None]) -> None:
    """Asks for a file to be read without waiting for the answer, and does what comes ``then``."""
    dialog = QFileDialog(over, title, str(last_folder()), kinds)
    dialog.setFileMode(QFileDialog.FileMode.ExistingFile)
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.fileSelected.connect(lambda name: then(Path(name)))
    dialog.open()


def asked_to_write(over: QWidget | None, title: str, offered: str, kinds: str) -> Path | None:
    """A place to write to, under the name ``offered`` or another one."""
    name, _ = QFileDialog.getSaveFileName(over, title, str(last_folder() / offered), kinds)
    return _used(name)


def asked_for_folder(over: QWidget | None, title: str) -> Path | None:
    name = QFileDialog.getExistingDirectory(over, title, str(last_folder()))
    if not name:
        return None
    remember_folder(Path(name))
    return Path(name)


def _used(name: str) -> Path | None:
    if not name:
        return None
    remember_folder(Path(name).parent)
    return Path(name)


def offered_name(session: Session, row: Row, ending: str) -> str:
    """A name for what a row writes: that of its form, and its own where that is another."""
    form_row = row if "form" in row.gives else session.job.origin(row, ("form",))
    form = session.value(form_row, "form")
    words = []
    if form_row is not None:
        of_file = Path(form.source).stem if form is not None and form.source else ""
        words.append(form_row.title or of_file or form_row.name)
    if form_row is None or form_row.id != row.id:
        words.append(row.name)
    return f"{' - '.join(filter(None, map(plain_name, words))) or plain_name(session.job.name) or 'part'}.{ending}"


def plain_name(text: str) -> str:
    """What of a text can stand in the name of a file."""
    return "".join(letter for letter in text if letter.isalnum() or letter in " -_.").strip(" .")
