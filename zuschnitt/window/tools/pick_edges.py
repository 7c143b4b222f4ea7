"""Picks edges of the form, one after the other."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtGui import QMouseEvent

from ...core.errors import Refused
from ...core.parameters.flanges import toggled
from ...core.parameters.picks import Edges
from ..identities import picks_now
from .tool import Tool

if TYPE_CHECKING:
    from ...core.form.form import Form
    from ...core.job.route import Row
    from ...core.parameters.parameter import Parameter
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
        value = self._toggled(form, row, parameter, number)
        session.edit("Pick edges", lambda job: job.set(row.id, parameter.name, value))
        return True

    def _toggled(self, form: Form, row: Row, parameter: Parameter, number: int) -> str:
        """The value with that edge, or without it where it has it."""
        assert isinstance(parameter, Edges)
        try:
            before = picks_now(form, row, parameter)
        except Refused:  # some are not there any more: they are picked anew
            before = ()
        return ", ".join(map(str, sorted(set(before) ^ {number})))


class PickFlanges(PickEdges):
    """The edges at which flanges are bent: those of the last flange that is written, or of a first one."""

    words = "click an edge to bend a flange there, or to leave it · Enter ends"
    picks = "flanges"

    def _toggled(self, form: Form, row: Row, parameter: Parameter, number: int) -> str:
        return toggled(parameter.written(row), number)
