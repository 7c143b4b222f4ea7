"""Parts laid on sheets."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from types import MappingProxyType
from typing import TYPE_CHECKING, Any

from ..wording import counted
from .result import Figure, Printing, Result

if TYPE_CHECKING:
    from ..contour import Contour
    from ..nesting.packing import NestedSheet

BETWEEN = 50.0
"""Sheets stand so far beside each other in one drawing, in mm,"""
BELOW = 0.12
"""and this part of their height below each other, which leaves room for words."""
TALL = 0.75
"""How much wider than high the rows of sheets are, about."""


@dataclass(frozen=True)
class NestResult(Result):
    """``value`` are the sheets in order; ``left`` names parts that fit on none, ``margin`` is that of the sheets."""

    value: tuple[NestedSheet, ...]
    left: tuple[str, ...] = ()
    margin: float = 0.0
    kind = "nest"
    writes = MappingProxyType({"dxf": "writes all sheets, one beside the other", "svg": "writes all sheets"})

    @property
    def share(self) -> float:
        """The yield of all sheets together, in percent."""
        room = sum(sheet.size[0] * sheet.size[1] for sheet in self.value)
        return 100 * sum(placed.part.area for sheet in self.value for placed in sheet.parts) / room if room else 0.0

    def figures(self) -> tuple[Figure, ...]:
        parts = sum(len(sheet.parts) for sheet in self.value)
        last = self.value[-1].offcut(self.margin) if self.value else (0.0, 0.0)
        return (
            Figure("sheets", f"{len(self.value):,}", "blank"),
            Figure("parts", f"{parts:,}", "blank"),
            Figure("yield", f"{self.share:.1f} %", "blank"),
            Figure("offcut of the last", f"{last[0]:.0f} × {last[1]:.0f}", "blank"),
            *((Figure("left over", f"{len(self.left):,}"),) if self.left else ()),
        )

    def brief(self) -> str:
        parts = sum(len(sheet.parts) for sheet in self.value)
        return f"{counted(parts, 'part')} on {counted(len(self.value), 'sheet')} · {self.share:.1f} %"

    def places(self) -> list[tuple[NestedSheet, tuple[float, float]]]:
        """Each sheet with where its lower left corner lies, when they stand in rows, about as high as wide."""
        wide = max((sheet.size[0] for sheet in self.value), default=1.0)
        high = max((sheet.size[1] for sheet in self.value), default=1.0)
        columns = max(1, round((len(self.value) * high / wide) ** 0.5 * TALL))
        return [
            (sheet, (k % columns * (wide + BETWEEN), -(k // columns) * (1 + BELOW) * high))
            for k, sheet in enumerate(self.value)
        ]

    def content(self, ending: str, title: str, printing: Printing) -> bytes:
        from ..files.drawing_file import drawing_bytes

        contours: list[Contour] = []
        for sheet, at in self.places():
            contours.extend(contour.moved(at=at) for contour in sheet.contours())
        return drawing_bytes(ending, contours, title)

    def report(self) -> dict[str, Any]:
        return {
            "nesting": {
                "sheets": [sheet.report(self.margin) for sheet in self.value],
                "yield": self.share,
                "left_over": list(self.left),
            }
        }

    def pieces(self) -> Counter[str]:
        """How many of each part are laid."""
        return Counter(placed.part.name for sheet in self.value for placed in sheet.parts)
