"""A drawing that lies on no blank: what is cut, what is marked and, where it was made lighter, what was taken away."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from ...core.plane.contour import Contour, bounds
from ...core.results.drawing import DrawingResult
from ...core.results.thinned import ThinnedResult
from ...core.wording import counted
from ..session import Session
from ..theme import theme
from .layer import BlankLayer, BlankScene, Box
from .paths import KeptPath


class PlainDrawingLayer(BlankLayer):
    """Of the selected row; it has the whole stage."""

    order = 113

    def __init__(self) -> None:
        self._paths = [KeptPath() for _ in range(3)]

    def alone(self, scene: BlankScene) -> str:
        made = plain_drawing(scene.session)
        return "" if made is None else counted(len(made.value), "curve")

    def extent(self, scene: BlankScene) -> Box | None:
        made = plain_drawing(scene.session)
        return None if made is None else bounds((*made.value, *_away(made)))

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        made = plain_drawing(scene.session)
        if made is None:
            return
        now, view = theme(), scene.view
        cut = [contour for contour in made.value if contour.layer == "CUT"]
        marked = [contour for contour in made.value if contour.layer != "CUT"]
        looks: tuple[tuple[Sequence[Contour], QPen], ...] = (
            (_away(made), QPen(QColor(now.quiet), 1.0, Qt.PenStyle.DotLine)),
            (marked, QPen(QColor(now.blank), 1.0)),
            (cut, QPen(QColor(now.blank), 2.2)),
        )
        for kept, (contours, pen) in zip(self._paths, looks, strict=True):
            painter.strokePath(view.transform.map(kept.of(made, contours)), pen)


def plain_drawing(session: Session) -> DrawingResult | None:
    """The drawing of the selected row, if that gives nothing else and works on no blank."""
    row, result = session.selected_row, session.given("drawing")
    if row is None or not isinstance(result, DrawingResult):
        return None
    alone = row.gives == ("drawing",) and session.job.origin(row, ("blank",)) is None
    return result if alone or isinstance(result, ThinnedResult) else None


def _away(made: DrawingResult) -> Sequence[Contour]:
    """What was taken away of it."""
    return made.away if isinstance(made, ThinnedResult) else ()


def thinned_of(session: Session) -> ThinnedResult | None:
    """What the selected row made lighter."""
    result = session.given("drawing")
    return result if isinstance(result, ThinnedResult) else None
