"""The tool that is there when nothing else is: it moves what is under it, and picks."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtGui import QMouseEvent, QPainter

from ..layers.point_handles import points_of
from ..layers.reliefs import relief_ends
from ..layers.tips import tips_of
from .move_artwork import MoveOnForm
from .move_point import MovePoint
from .move_relief import MoveRelief
from .move_tip import MoveTip
from .tool import Tool

if TYPE_CHECKING:
    from ..stages.form_stage import FormStage


class Hand(Tool):
    """Points, reliefs and artwork are moved, faces are picked; a face of another row's blank selects that row."""

    def __init__(self, stage: FormStage) -> None:
        self.stage = stage
        moving = MovePoint(stage), MoveRelief(stage), MoveTip(stage), MoveOnForm(stage)
        self._tools: tuple[Tool, ...] = (*moving, stage.faces)
        self._held: Tool | None = None

    def press(self, event: QMouseEvent) -> bool:
        self._held = next((tool for tool in self._tools if tool.press(event)), None)
        return self._held is not None

    def drag(self, event: QMouseEvent) -> None:
        if self._held is not None:
            self._held.drag(event)

    def drop(self, event: QMouseEvent) -> None:
        if self._held is not None:
            self._held.drop(event)

    def click(self, event: QMouseEvent) -> bool:
        if self._held is not None:
            return self._held.click(event)
        if self.stage.faces.ready:
            return self.stage.faces.click(event)
        under = self.stage.under(event.position())
        if under is not None:
            self._select_developing(under[0])
        return True

    def double(self, event: QMouseEvent) -> bool:
        return self.stage.faces.double(event)

    def paint(self, painter: QPainter) -> None:
        if self._held is not None:
            self._held.paint(painter)

    @property
    def foot(self) -> str:
        """What it would do."""
        if len(points_of(self.stage.session)):
            return MovePoint.words
        tips = tips_of(self.stage.session)
        if tips:
            return tips[0].words
        return MoveRelief.words if relief_ends(self.stage.session) else "drag turns · right drag moves"

    def _select_developing(self, face: int) -> None:
        """A click on a face, while another row is selected, goes to the row that develops it."""
        session = self.stage.session
        form_row = session.nearby("form")
        for row in session.job.rows:
            if "blank" in row.gives and form_row in session.job.sources(row):
                blank = session.value(row, "blank")
                if blank is not None and face in blank.faces:
                    session.select(row.id)
                    return
