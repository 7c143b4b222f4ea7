"""The free ends of flanges, as handles on the form."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtGui import QColor, QPainter, QPen

from ...core.job.route import Row
from ...core.operations.registry import known_entry
from ...core.parameters.flanges import Flanges
from ...core.results.sheet import SheetResult
from ..theme import theme
from .layer import FormLayer, FormScene
from .paths import polygon

if TYPE_CHECKING:
    from ...core.sheet.flange_tips import FlangeTip
    from ..session import Session

HALF = 4.5
"""From the middle of a handle to its corners, in pixels."""
DIAMOND = np.array([[0, -1], [1, 0], [0, 1], [-1, 0]])


class FlangeTips(FormLayer):
    order = 66

    def paint(self, painter: QPainter, scene: FormScene) -> None:
        tips = tips_of(scene.session)
        if not tips or scene.session.glimpses:
            return
        painter.setPen(QPen(QColor(theme().form), 1.6))
        painter.setBrush(QColor(theme().form_paper))
        for x, y in scene.pixels(np.array([tip.point for tip in tips])):
            painter.drawPolygon(polygon(np.array([x, y]) + HALF * DIAMOND))


def parameter_of(row: Row | None) -> Flanges | None:
    """The value of a row that is flanges; None where it has none."""
    known = known_entry(row.operation) if row is not None else None
    return next((p for p in known.parameters if isinstance(p, Flanges)), None) if known is not None else None


def tips_of(session: Session) -> tuple[FlangeTip, ...]:
    """The free ends of the flanges that the selected row has bent, as long as its result is that of its values."""
    row = session.selected_row
    if row is None or parameter_of(row) is None or row.id in session.pending:
        return ()
    outcome = session.outcome(row)
    found = [result for result in outcome.results if isinstance(result, SheetResult)] if outcome is not None else []
    return found[0].tips if found and not session.stale(row) else ()
