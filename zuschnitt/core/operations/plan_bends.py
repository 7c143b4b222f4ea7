"""Plan the bends: the flat of a sheet part is exported, and the simulated press brake bends it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..errors import Refused
from ..parameters import source
from ..progress import Progress
from ..results.brake_plan import BrakePlanResult
from ..results.result import Outcome, outcome
from .registry import operation


@operation(
    "plan_bends",
    title="Plan the bends",
    stage="blank",
    group="Cut out",
    gives="brake_plan",
    takes="the flat of a sheet part",
    makes="an order of its bends with their tools, by a simulated press brake that reads the exported flat",
)
@dataclass(frozen=True)
class PlanBends:
    blank: Any = source("blank", hint="the flat of a sheet part")

    sentence = "Plan the bends of {blank}."

    def run(self, progress: Progress) -> Outcome:
        from ...standins.files.path import UnreadableError
        from ...standins.press.brake import planned
        from ...standins.press.flat import read
        from ..files.dxf import dxf_bytes
        from ..shop.cut_drawing import drawing

        try:
            flat = read(dxf_bytes(drawing(self.blank, ())), "the flat.dxf")
        except UnreadableError as error:
            raise Refused(str(error)) from None
        progress.step(0.3, "looking for an order")
        plan = planned(flat)
        bad = next((step for step in plan.steps if step.collides), None)
        said = (f"Bend {bad.bend} cannot be made: {bad.reason.rstrip('.')}.",) if bad is not None else ()
        return outcome(BrakePlanResult(plan, flat), messages=said)
