"""Picks points and directions on the form."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtGui import QMouseEvent

from ...core.wording import coordinates
from .tool import Tool

if TYPE_CHECKING:
    from ..stages.form_stage import FormStage


class PickPoints(Tool):
    words = "click points one after the other; corners catch · Enter ends"
    picks = "points"

    def __init__(self, stage: FormStage) -> None:
        self.stage = stage

    def click(self, event: QMouseEvent) -> bool:
        """Adds the point under the mouse; corners and edges catch it."""
        session, wanted = self.stage.session, self.stage.session.wanted
        row = session.row(wanted.row_id) if wanted is not None else None
        point = self.stage.place(event.position())
        if row is None or wanted is None or point is None:
            return True
        before = str(row.parameters.get(wanted.name, "")).strip()
        text = coordinates(self.stage.on_surface(self.stage.caught(self.stage.here(event.position()), point)))
        value, name = f"{before}; {text}" if before else text, wanted.name
        session.edit("Click a point", lambda job: job.set(row.id, name, value))
        return True


class PickPoint(Tool):
    words = "click the point; corners catch · Esc leaves it as it is"
    picks = "point"

    def __init__(self, stage: FormStage) -> None:
        self.stage = stage

    def click(self, event: QMouseEvent) -> bool:
        session, wanted, under = self.stage.session, self.stage.session.wanted, self.stage.under(event.position())
        if wanted is not None and under is not None:
            text = _written(self.value(self.stage.here(event.position()), under[1]))
            session.want(None)
            session.edit(f"Set {wanted.name}", lambda job: job.set(wanted.row_id, wanted.name, text))
        return True

    def value(self, here: np.ndarray, point: np.ndarray) -> np.ndarray:
        """What is meant by a click at pixel ``here`` (2,) on ``point`` (3,)."""
        return self.stage.caught(here, point)


class PickDirection(PickPoint):
    words = "click an edge, or a point to head for · Esc leaves it as it is"
    picks = "direction"

    def value(self, here: np.ndarray, point: np.ndarray) -> np.ndarray:
        """Along the edge under the click, or else from the hold point to the click."""
        blank, direction = self.stage.blank(), self.stage.edge_direction(here)
        if direction is None:
            direction = point - (blank.hold_form if blank is not None else np.zeros(3))
        elif blank is not None and direction @ blank.along_form < 0:
            direction = -direction
        return direction / max(float(np.linalg.norm(direction)), 1e-12)


def _written(point: np.ndarray) -> str:
    return ", ".join("0" if abs(v) < 5e-5 else f"{v:.4f}".rstrip("0").rstrip(".") for v in point)
