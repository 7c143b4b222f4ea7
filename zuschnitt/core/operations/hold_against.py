"""Hold against: two forms, or two sets of curves, compared."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from ..errors import Refused
from ..parameters import source
from ..progress import Progress
from ..results.held import HeldResult
from ..results.result import Outcome, outcome
from .registry import operation

if TYPE_CHECKING:
    from ..form.form import Form
    from ..geometry.curves import Array

KINDS = ("curves", "wrapped", "traced", "drawing", "form")
FLAT = 1e-4
"""Arcs of drawings are flattened to this in mm."""


@operation(
    "hold_against",
    title="Hold against",
    stage="form",
    group="Carry back",
    gives="held",
    takes="two sets of curves, or two forms",
    makes="their largest and mean distance, and the worst place",
)
class HoldAgainst:
    one: Any = source(*KINDS, hint="what is held against the other")
    other: Any = source(*KINDS, hint="what it is held against")

    sentence = "Hold {one} against {other}."

    def run(self, progress: Progress) -> Outcome:
        from ..form.deviation import held_against

        return outcome(HeldResult(held_against(_shape(self.one), _shape(self.other))))


def _shape(value: Any) -> Form | list[Array]:
    """A form, or the curves of whatever has some, as polylines (n, 3)."""
    from ..carry.carried import CarriedCurve
    from ..carry.tracing import SpaceCurve
    from ..form.form import Form
    from ..plane.contour import Contour

    if isinstance(value, Form):
        return value
    found = []
    for each in value:
        if isinstance(each, Contour):
            flat = each.flattened(FLAT)
            found.append(np.column_stack([flat, np.zeros(len(flat))]))
        elif isinstance(each, CarriedCurve):
            found.append(each.form)
        elif isinstance(each, SpaceCurve):
            found.append(each.points)
    if not found:
        raise Refused("There are no curves in it to hold against anything; choose another row.")
    return found
