"""Curves on a form that nothing has carried yet."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import TYPE_CHECKING, ClassVar

from ..record import record
from ..wording import counted, length
from .result import Figure, Printing, Result

if TYPE_CHECKING:
    from ..carry.tracing import SpaceCurve


@record
class CurvesResult(Result):
    """``value`` are SpaceCurves."""

    value: tuple[SpaceCurve, ...]
    kind = "curves"
    writes: ClassVar[Mapping[str, str]] = MappingProxyType({"step": "writes the curves"})
    first: ClassVar[tuple[str, ...]] = ("step",)
    whole: ClassVar[tuple[str, ...]] = ("step",)
    follows = (("trace", "trace them to the blank"),)
    plain = True

    def figures(self) -> tuple[Figure, ...]:
        return (
            Figure("curves", f"{len(self.value):,}", "form"),
            Figure("on the form", length(sum(curve.length for curve in self.value)), "form"),
        )

    def brief(self) -> str:
        return counted(len(self.value), "curve")

    def content(self, ending: str, title: str, printing: Printing) -> bytes:
        from ..kernel.step_out import step_bytes

        return step_bytes([spline for curve in self.value for spline in curve.splines])
