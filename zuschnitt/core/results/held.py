"""Two things held against each other."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from ..record import record
from ..wording import coordinates, distance
from .result import Figure, Result

if TYPE_CHECKING:
    from ..form.deviation import Held


@record
class HeldResult(Result):
    """``value`` is how far they lie apart. Of a part cut out and formed back, ``area`` is how much larger it is
    than its blank, in mm².
    """

    value: Held
    area: float | None = None
    kind = "held"

    def figures(self) -> tuple[Figure, ...]:
        larger = () if self.area is None else (Figure("cut area against the blank", f"{self.area:+.4f} mm²", "blank"),)
        return (
            Figure("largest distance", distance(self.value.largest), "form"),
            Figure("mean distance", distance(self.value.mean), "form"),
            Figure("worst place", coordinates(self.value.worst), "form"),
            *larger,
        )

    def brief(self) -> str:
        return f"at most {distance(self.value.largest)} apart"

    def report(self) -> dict[str, Any]:
        held = self.value
        if self.area is not None:
            about = {"deviation_max": held.largest, "deviation_mean": held.mean, "area_difference": self.area}
            return {"held": about}
        return {"distance": {"max": held.largest, "mean": held.mean, "at": held.worst.tolist(),
                             "there_max": held.there, "back_max": held.back}}  # fmt: skip
