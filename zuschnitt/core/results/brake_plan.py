"""The order in which the simulated press brake makes the bends of a flat."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from ..record import record
from ..wording import counted
from .result import Figure, Result

if TYPE_CHECKING:
    from ...standins.press.brake import Plan
    from ...standins.press.flat import Flat


@record
class BrakePlanResult(Result):
    """``value`` is a Plan for the bends of ``flat``."""

    value: Plan
    flat: Flat
    kind = "brake_plan"
    played = ("flat", "bent")

    @property
    def plain(self) -> bool:  # type: ignore[override]  # by what was found
        return self.value.possible

    def figures(self) -> tuple[Figure, ...]:
        steps = self.value.steps
        tools = {step.tool for step in steps if step.tool}
        return (
            Figure("bends", f"{len(steps):,}", "blank"),
            Figure("tools", f"{len(tools):,}", "blank"),
            Figure("can be bent", "yes" if self.value.possible else "no", "blank" if self.value.possible else ""),
        )

    def brief(self) -> str:
        count = counted(len(self.value.steps), "bend")
        return (
            f"{count} in the order {', '.join(map(str, self.value.order))}"
            if self.value.possible
            else f"{count}, not all can be made"
        )

    def report(self) -> dict[str, Any]:
        steps = [
            {
                "bend": s.bend,
                "tool": s.tool,
                "angle": s.angle,
                "collides": s.collides,
                "reason": s.reason,
                "gauge": s.gauge,
            }
            for s in self.value.steps
        ]
        return {"press": {"order": self.value.order, "steps": steps, "possible": self.value.possible}}
