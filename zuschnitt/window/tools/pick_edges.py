"""Picks edges of the form, one after the other."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtGui import QMouseEvent

from ...core.errors import Refused
from ...core.parameters.flanges import toggled
from ...core.parameters.picks import Edges
from ..memory import picks_now
from .tool import Tool

if TYPE_CHECKING:
    from ..stages.form_stage import FormStage


class PickEdges(Tool):
    words = "click an edge to take it or to leave it · Enter ends"
    picks = "edges"

    def __init__(self, stage: FormStage) -> None:
        self.stage = stage

    def click(self, event: QMouseEvent) -> bool:
        """Takes the edge under the mouse, or leaves it where it was taken."""
        session, form, wanted = self.stage.session, self.stage.picture.form, self.stage.session.wanted
        number = self.stage.edge_near(self.stage.here(event.position()))
        row = session.row(wanted.row_id) if wanted is not None else None
        if row is None or wanted is None or form is None or number is None:
            return True
        parameter = session.job.parameter(row, wanted.name)
        assert isinstance(parameter, Edges)
        try:
            before = picks_now(form, row, parameter)
        except Refused:  # some are not there any more: they are picked anew
            before = ()
        taken = ", ".join(map(str, sorted(set(before) ^ {number})))
        session.edit("Pick edges", lambda job: job.set(row.id, parameter.name, taken))
        return True


class PickFlanges(Tool):
    """The edges at which flanges are bent: those of the last flange that is written, or of a first one."""

    words = "click an edge to bend a flange there, or to leave it · Enter ends"
    picks = "flanges"

    def __init__(self, stage: FormStage) -> None:
        self.stage = stage

    def click(self, event: QMouseEvent) -> bool:
        session, wanted = self.stage.session, self.stage.session.wanted
        number = self.stage.edge_near(self.stage.here(event.position()))
        row = session.row(wanted.row_id) if wanted is not None else None
        if row is None or wanted is None or number is None:
            return True
        parameter = session.job.parameter(row, wanted.name)
        value = toggled(parameter.written(row), number)
        session.edit("Pick edges of flanges", lambda job: job.set(row.id, parameter.name, value))
        return True
