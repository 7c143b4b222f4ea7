"""Plan the bends: the flat of a sheet part is exported, and the simulated press brake bends it."""

from __future__ import annotations

from typing import Any

from ..parameters import source
from ..progress import Progress
from ..results.result import Outcome
from .registry import operation
from .shop_outcome import bent_by_press


@operation(
    "plan_bends",
    title="Plan the bends",
    stage="blank",
    group="Cut out",
    gives="brake_plan",
    takes="the flat of a sheet part",
    makes="an order of its bends with their tools, by a simulated press brake that reads the exported flat",
)
class PlanBends:
    blank: Any = source("blank", hint="the flat of a sheet part")

    sentence = "Plan the bends of {blank}."

    def run(self, progress: Progress) -> Outcome:
        from ..files.dxf import dxf_bytes
        from ..shop.cut_drawing import drawing

        return bent_by_press(dxf_bytes(drawing(self.blank, ())), "the flat.dxf", progress)
