"""Where all bodies of the job are shown, a click on one goes to its row."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent

from .tool import Tool

if TYPE_CHECKING:
    from ..stages.form_stage import FormStage


class PickBody(Tool):
    words = "click a body   J another way   Esc leaves"

    def __init__(self, stage: FormStage) -> None:
        self.stage = stage

    def click(self, event: QMouseEvent) -> bool:
        under, bodies = self.stage.under(event.position()), self.stage.all_bodies()
        if under is not None and bodies is not None:
            self.stage.session.show_bodies("")
            self.stage.session.select(bodies.row_of(under[0]).id)
        return True

    def key(self, event: QKeyEvent) -> bool:
        if event.key() != Qt.Key.Key_Escape:
            return False
        self.stage.session.show_bodies("")
        return True
