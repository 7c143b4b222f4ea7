"""A drawing that was made lighter."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from ..record import record
from ..wording import counted, listed
from .drawing import DrawingResult
from .result import Figure

if TYPE_CHECKING:
    from ..plane.contour import Contour


@record
class ThinnedResult(DrawingResult):
    """``segments`` before and after, ``left_out`` by why, ``deviation`` in mm from the drawing that was given; ``away``
    are the contours that were picked away, ``sorts`` what layers and colours the drawing has, of how many contours."""

    segments: tuple[int, int] = (0, 0)
    left_out: tuple[tuple[str, int], ...] = ()
    deviation: float = 0.0
    away: tuple[Contour, ...] = ()
    sorts: tuple[tuple[str, int], ...] = ()

    def figures(self) -> tuple[Figure, ...]:
        before, after = self.segments
        names = listed([f"{name} {count:,}" for name, count in self.sorts])
        more = [Figure("layers and colours", names, "blank")] if len(self.sorts) > 1 else []
        return (
            Figure("segments before", f"{before:,}", "blank"),
            Figure("after", f"{after:,}", "blank"),
            Figure("deviation", f"{self.deviation:.4f} mm", "blank"),
            *super().figures(),
            *more,
        )

    def brief(self) -> str:
        before, after = self.segments
        return f"{before:,} → {counted(after, 'segment')}, {counted(len(self.value), 'contour')}"

    def report(self) -> dict[str, Any]:
        before, after = self.segments
        about = {"segments_before": before, "segments_after": after, "contours": len(self.value)}
        away = {"away": len(self.away)} if self.away else {}
        known = {"sorts": dict(self.sorts)} if self.sorts else {}
        return {"thinned": {**about, **dict(self.left_out), **away, "deviation_max": self.deviation, **known}}
