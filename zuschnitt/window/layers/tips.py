"""What is dragged along a line on the form, as handles: the free ends of flanges, and the tops of bodies that stand."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtGui import QColor, QPainter, QPen

from ...core.carry.lifted import Lifting
from ...core.errors import Refused
from ...core.job.route import Job, Row
from ...core.operations.registry import known_entry
from ...core.parameters.flanges import Flanges, with_length
from ...core.record import record
from ...core.results.sheet import SheetResult
from ..drawing import written
from ..theme import theme
from .handles import bodies_of, numbers_of, on_blank
from .layer import FormLayer, FormScene
from .paths import polygon

if TYPE_CHECKING:
    from ..session import Session

HALF = 4.5
"""From the middle of a handle to its corners, in pixels."""
DIAMOND = np.array([[0, -1], [1, 0], [0, 1], [-1, 0]])
SHORTEST = 0.1
"""No flange is made shorter by dragging, in mm."""


@record
class Tip:
    """A place ``point`` (3,) that moves along the unit vector ``way`` (3,) with a ``value`` in mm, ``least`` at least.

    ``edit`` makes a job with another value; ``title`` is what that is called, ``words`` what one does.
    """

    point: np.ndarray
    way: np.ndarray
    value: float
    least: float
    edit: Callable[[Job, float], Job]
    title: str
    words: str


class Tips(FormLayer):
    order = 66

    def paint(self, painter: QPainter, scene: FormScene) -> None:
        tips = tips_of(scene.session)
        if not tips or scene.session.glimpses:
            return
        painter.setPen(QPen(QColor(theme().form), 1.6))
        painter.setBrush(QColor(theme().form_paper))
        for x, y in scene.pixels(np.array([tip.point for tip in tips])):
            painter.drawPolygon(polygon(np.array([x, y]) + HALF * DIAMOND))


def tips_of(session: Session) -> tuple[Tip, ...]:
    """Those of the selected row, as long as its result is that of its values."""
    row = session.selected_row
    if row is None or session.hides(row) or row.id in session.pending or session.stale(row):
        return ()
    return _of_flanges(session, row) or _of_bodies(session, row)


def _of_flanges(session: Session, row: Row) -> tuple[Tip, ...]:
    """The free ends of the flanges that a row has bent: they are dragged for their length."""
    known, outcome = known_entry(row.operation), session.outcome(row)
    parameter = next((p for p in known.parameters if isinstance(p, Flanges)), None) if known is not None else None
    found = [result for result in outcome.results if isinstance(result, SheetResult)] if outcome is not None else []
    if parameter is None or not found:
        return ()
    try:
        chains = parameter.resolved(parameter.written(row), session.job.numbers)
    except Refused:
        return ()

    def edit(flange: int, wall: int, job: Job, length: float) -> Job:
        return job.set(row.id, parameter.name, with_length(parameter.written(row), flange, wall, length))

    return tuple(
        Tip(
            tip.point, tip.way, (chains[tip.flange], *chains[tip.flange].then)[tip.wall].length, SHORTEST,
            partial(edit, tip.flange, tip.wall), "Make a flange longer or shorter",
            "drag the end of a flange for its length",
        )
        for tip in found[0].tips
    )  # fmt: skip


def _of_bodies(session: Session, row: Row) -> tuple[Tip, ...]:
    """The top of the first body that a row stands on a blank: it is dragged off the form, or into it."""
    made = bodies_of(session, row) if on_blank(session, row) else []
    blank = session.nearby("blank")
    form, patch = (session.given_form(blank), session.value(blank, "blank")) if blank is not None else (None, None)
    if not made or made[0].depth_max is None or not made[0].footprint or form is None or patch is None:
        return ()
    lift = numbers_of(session.job, row, ("lift",))["lift"] or 0.0
    middle, top = made[0].footprint[0].mean(axis=0), made[0].depth_max
    lifting = Lifting(form, patch.correspondence)
    face = int(lifting.face_at(middle[None])[0])
    point, above = lifting.on(face, np.array([[*middle, top], [*middle, top + 1.0]]))
    edit = partial(_lifted, row.id)
    return (Tip(point, above - point, lift, -np.inf, edit, "Lift a body", "drag the top of a body to lift or sink it"),)


def _lifted(row_id: str, job: Job, lift: float) -> Job:
    return job.set(row_id, "lift", written(lift))
