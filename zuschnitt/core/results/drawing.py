"""A drawing by layers, ready to be cut."""

from __future__ import annotations

from collections import Counter
from types import MappingProxyType
from typing import TYPE_CHECKING

from ..plane.contour import total_length
from ..record import record
from ..wording import counted, length, size
from .result import Figure, Printing, Result

if TYPE_CHECKING:
    from ..plane.contour import Contour


@record
class DrawingResult(Result):
    """``value`` are Contours."""

    value: tuple[Contour, ...]
    kind = "drawing"
    writes = MappingProxyType(
        {"dxf": "writes the cut file", "svg": "writes the cut file", "step": "writes its curves, flat"}
    )
    whole = ("dxf", "svg")

    def figures(self) -> tuple[Figure, ...]:
        from ..plane.contour import bounds

        cut = [contour for contour in self.value if contour.layer == "CUT"]
        marked = [contour for contour in self.value if contour.layer != "CUT"]
        x0, y0, x1, y1 = bounds(self.value)
        return (
            Figure("to cut", length(total_length(cut)), "blank"),
            Figure("to mark", length(total_length(marked)), "blank"),
            Figure("contours", f"{len(self.value):,}", "blank"),
            Figure("size", size(x1 - x0, y1 - y0), "blank"),
        )

    def brief(self) -> str:
        layers = Counter(contour.layer for contour in self.value)
        return " · ".join(f"{layer} {counted(count, 'contour')}" for layer, count in layers.items())

    def content(self, ending: str, title: str, printing: Printing) -> bytes:
        if ending == "step":
            from ..kernel.step_out import step_bytes

            return step_bytes(contours=self.value)
        from ..files.drawing_file import drawing_bytes

        return drawing_bytes(ending, self.value, title)
