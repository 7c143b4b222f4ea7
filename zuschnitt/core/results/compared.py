"""Ways of developing the same faces, side by side."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from ..record import record
from ..wording import percent
from .blank import blank_part
from .result import Figure, Result

if TYPE_CHECKING:
    from ..develop.compared import Compared


@record
class ComparedResult(Result):
    """``value`` are the ways, each with its blank or why it was refused."""

    value: tuple[Compared, ...]
    kind = "compared"

    def figures(self) -> tuple[Figure, ...]:
        return tuple(
            Figure(
                each.way, f"{percent(each.area_change)} area, {percent(each.stretch_max)} / {percent(each.stretch_min)}"
            )
            for each in self.value
            if each.blank is not None
        )

    def brief(self) -> str:
        return " · ".join(each.way for each in self.value)

    def report(self) -> dict[str, Any]:
        return {"compared": [compared_part(each) for each in self.value]}


def compared_part(compared: Compared) -> dict[str, Any]:
    """One way of a comparison: its blank and the histogram of its stretch, or why it was refused."""
    part: dict[str, Any] = {"way": compared.way, "purpose": compared.purpose}
    if compared.blank is None or compared.bins is None or compared.shares is None:
        return {**part, "refusal": compared.refusal}
    histogram = {"percent": compared.bins.tolist(), "share": compared.shares.tolist()}
    return {**part, "blank": blank_part(compared.blank), "histogram": histogram}
