"""Brings what the engine says from its thread into the window's."""

from __future__ import annotations

from contextlib import suppress

from PyQt6.QtCore import QObject, pyqtSignal

from ..engine.engine import Engine


class EngineLink(QObject):
    """``heard`` is emitted in the window's thread, in the order of the events."""

    heard = pyqtSignal(object)

    def __init__(self, engine: Engine, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.engine = engine
        engine.tell_to(self._tell)

    def _tell(self, event: object) -> None:
        with suppress(RuntimeError):  # the window has just been closed
            self.heard.emit(event)
