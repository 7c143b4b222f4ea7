"""What a tool is: what the mouse does on a stage, one at a time."""

from __future__ import annotations

from typing import ClassVar

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter


class Tool:
    """Each call says whether the tool has taken it; what it does not take, the stage does: it looks round.

    ``words`` stand at the foot of the stage. A tool that ``picks`` gives a value what its kind asks for.
    One that is ``alone`` works on what has the stage to itself.
    """

    words: ClassVar[str] = ""
    picks: ClassVar[str] = ""
    alone: ClassVar[bool] = False

    def press(self, event: QMouseEvent) -> bool:
        """Whether the tool takes hold of something."""
        return False

    def drag(self, event: QMouseEvent) -> None:
        """What it took hold of is moved."""

    def drop(self, event: QMouseEvent) -> None:
        """What was moved is let go."""

    def click(self, event: QMouseEvent) -> bool:
        """A press that was not moved."""
        return False

    def double(self, event: QMouseEvent) -> bool:
        return False

    def key(self, event: QKeyEvent) -> bool:
        return False

    def takes(self, event: QKeyEvent) -> bool:
        """Whether a key means something here that means something else in the window."""
        return False

    def cursor(self, position: QPointF) -> Qt.CursorShape | None:
        """The shape of the mouse over what could be taken hold of."""
        return None

    def paint(self, painter: QPainter) -> None:
        """What is seen while it is used."""
