"""Curves carried from one side to the other: wrapped onto the form, or traced to the blank."""

from __future__ import annotations

from collections.abc import Sequence
from types import MappingProxyType
from typing import TYPE_CHECKING, Any

from ..record import record
from ..wording import counted, distance, length
from .result import Figure, Printing, Result

if TYPE_CHECKING:
    from ..carry.carried import CarriedCurve


@record
class CarriedResult(Result):
    """``value`` are CarriedCurves; ``deviation`` is how far in mm they lie from themselves after there and back."""

    value: tuple[CarriedCurve, ...]
    deviation: float = 0.0
    follows = (("cut_file", "cut the blank out"),)
    side = "form"

    def figures(self) -> tuple[Figure, ...]:
        return (
            Figure("curves", f"{len(self.value):,}", self.side),
            Figure("on the form", length(sum(curve.length_form for curve in self.value)), "form"),
            Figure("on the blank", length(sum(curve.length_blank for curve in self.value)), "blank"),
            Figure("deviation", distance(self.deviation)),
        )

    def report(self) -> dict[str, Any]:
        return {"curves": curves_part(self.value)}


@record
class WrappedResult(CarriedResult):
    """Curves on the form."""

    kind = "wrapped"
    writes = MappingProxyType({"step": "writes the wrapped curves"})
    first = whole = ("step",)

    def brief(self) -> str:
        return f"{counted(len(self.value), 'curve')} · deviation {distance(self.deviation)}"

    def content(self, ending: str, title: str, printing: Printing) -> bytes:
        return self.together([self], ending, title, printing)

    @classmethod
    def together(cls, results: Sequence[Result], ending: str, title: str, printing: Printing) -> bytes:
        """All curves of all rows."""
        from ..kernel.step_out import step_bytes

        return step_bytes([s for result in results for curve in result.value for s in curve.splines])


@record
class TracedResult(CarriedResult):
    """Curves on the blank."""

    kind = "traced"
    side = "blank"

    def brief(self) -> str:
        return f"{counted(len(self.value), 'curve')} to the blank"


def curves_part(curves: Sequence[CarriedCurve]) -> list[dict[str, Any]]:
    """Carried curves, as a report has them."""
    return [
        {
            "name": curve.name,
            "layer": curve.layer,
            "closed": curve.closed,
            "inside": bool(curve.inside.all()),
            "form": curve.form.tolist(),
            "blank": curve.blank.tolist(),
            "length_form": curve.length_form,
            "length_blank": curve.length_blank,
        }
        for curve in curves
    ]
