"""Parts laid on sheets."""

from __future__ import annotations

from collections import Counter
from types import MappingProxyType
from typing import TYPE_CHECKING, Any

from ..record import record
from ..wording import counted
from .result import Figure, Printing, Result

if TYPE_CHECKING:
    from ..nesting.sheet import NestedSheet, Nesting
    from ..plane.contour import Contour

BETWEEN = 50.0
"""Sheets stand so far beside each other in one drawing, in mm,"""
BELOW = 0.12
"""and this part of their height below each other, which leaves room for words."""
TALL = 0.75
"""How much wider than high the rows of sheets are, about."""


@record
class NestResult(Result):
    """``value`` is a Nesting."""

    value: Nesting
    kind = "nest"
    writes = MappingProxyType({"dxf": "writes all sheets, one beside the other", "svg": "writes all sheets"})
    follows = (("arrange_parts", "Lay by hand"), ("prepare_cut", "Prepare for the cut"))

    @property
    def plain(self) -> bool:  # type: ignore[override]  # by what was found
        return not self.value.wrong and not self.value.left

    def figures(self) -> tuple[Figure, ...]:
        made = self.value
        last = made.sheets[-1].offcut(made.how.margin) if made.sheets else (0.0, 0.0)
        return (
            Figure("sheets", f"{len(made.sheets):,}", "blank"),
            Figure("parts", f"{len(made.parts):,}", "blank"),
            Figure("yield", f"{made.share:.1f} %", "blank"),
            Figure("offcut of the last", f"{last[0]:.0f} × {last[1]:.0f}", "blank"),
            *((Figure("cost", f"{made.cost:,.2f}", "blank"),) if made.price else ()),
            *((Figure("too near", f"{len(made.wrong):,}"),) if made.wrong else ()),
            *((Figure("left over", f"{len(made.left):,}"),) if made.left else ()),
        )

    def brief(self) -> str:
        made = self.value
        return f"{counted(len(made.parts), 'part')} on {counted(len(made.sheets), 'sheet')} · {made.share:.1f} %"

    def places(self) -> list[tuple[NestedSheet, tuple[float, float]]]:
        """Each sheet with where its lower left corner lies, when they stand in rows, about as high as wide."""
        sheets = self.value.sheets
        wide = max((sheet.size[0] for sheet in sheets), default=1.0)
        high = max((sheet.size[1] for sheet in sheets), default=1.0)
        columns = max(1, round((len(sheets) * high / wide) ** 0.5 * TALL))
        return [
            (sheet, (k % columns * (wide + BETWEEN), -(k // columns) * (1 + BELOW) * high))
            for k, sheet in enumerate(sheets)
        ]

    def content(self, ending: str, title: str, printing: Printing) -> bytes:
        from ..files.drawing_file import drawing_bytes

        contours: list[Contour] = []
        for sheet, at in self.places():
            contours.extend(contour.moved(at=at) for contour in sheet.contours())
        return drawing_bytes(ending, contours, title)

    def report(self) -> dict[str, Any]:
        made = self.value
        about: dict[str, Any] = {
            "sheets": [sheet.report(made.how.margin) for sheet in made.sheets],
            "yield": made.share,
            "left_over": [part.name for part in made.left],
        }
        if made.price:
            about["cost"] = made.cost
        if made.wrong:
            about["too_near"] = [
                {"sheet": k + 1, "parts": [made.sheets[k].parts[i].part.name for i in each]} for k, each in made.wrong
            ]
        return {"nesting": about}

    def pieces(self) -> Counter[str]:
        """How many of each part are laid."""
        return Counter(placed.part.name for _, placed in self.value.parts)
