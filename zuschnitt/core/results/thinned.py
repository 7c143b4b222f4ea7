"""A drawing that was made lighter."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..wording import counted
from .drawing import DrawingResult
from .result import Figure


@dataclass(frozen=True)
class ThinnedResult(DrawingResult):
    """``segments`` before and after, ``left_out`` by why, ``deviation`` in mm from the drawing that was given."""

    segments: tuple[int, int] = (0, 0)
    left_out: tuple[tuple[str, int], ...] = ()
    deviation: float = 0.0

    def figures(self) -> tuple[Figure, ...]:
        before, after = self.segments
        return (
            Figure("segments before", f"{before:,}", "blank"),
            Figure("after", f"{after:,}", "blank"),
            Figure("deviation", f"{self.deviation:.4f} mm", "blank"),
            *super().figures(),
        )

    def brief(self) -> str:
        before, after = self.segments
        return f"{before:,} → {counted(after, 'segment')}, {counted(len(self.value), 'contour')}"

    def report(self) -> dict[str, Any]:
        before, after = self.segments
        about = {"segments_before": before, "segments_after": after, "contours": len(self.value)}
        return {"thinned": {**about, **dict(self.left_out), "deviation_max": self.deviation}}
