"""A blank."""

from __future__ import annotations

from types import MappingProxyType
from typing import TYPE_CHECKING, Any

from ..record import record
from ..wording import area, counted, distance, percent, size
from .result import Figure, Printing, Result

if TYPE_CHECKING:
    from ..develop.blank import Blank


@record
class BlankResult(Result):
    """``value`` is a Blank."""

    value: Blank
    kind = "blank"
    writes = MappingProxyType(
        {
            "dxf": "writes the cut file",
            "svg": "writes the cut file",
            "pdf": "writes it in true size on pages",
            "step": "writes the flat",
        }
    )
    whole = ("svg",)
    follows = (
        ("place_artwork", "place artwork on it"),
        ("draw_figures", "draw on it"),
        ("trace", "trace curves to it"),
        ("cut_file", "cut it out"),
    )

    def figures(self) -> tuple[Figure, ...]:
        from ..develop.patch_net import cells_of

        blank, figures = self.value, self.value.figures
        x0, y0, x1, y1 = blank.bounds
        stretch = "none" if blank.way == "exact" else f"{percent(figures.stretch_max)} / {percent(figures.stretch_min)}"
        found = [
            Figure("form", area(figures.area_form), "form"),
            Figure("blank", area(figures.area_blank), "blank"),
            Figure("change", percent(figures.area_change)),
            Figure("stretch", stretch),
            Figure("round trip", distance(figures.round_trip_max)),
            Figure("size", size(x1 - x0, y1 - y0), "blank"),
        ]
        if (cells := cells_of(blank)) is not None:
            (along, across), (wide, high) = cells
            found.append(Figure("net", f"{along} × {across} cells of {size(wide, high)}", "blank"))
        if (verdict := blank.verdict) is not None:
            found.append(Figure(f"{verdict.material.name} can take it", verdict.words, "form" if verdict.can else ""))
        return tuple(found)

    def brief(self) -> str:
        figures = self.value.figures
        pieces = "one piece" if figures.pieces == 1 else f"{figures.pieces} pieces"
        detail = f" · {counted(figures.triangles, 'triangle')}" if self.value.mesh is not None else ""
        return f"{self.value.way} · {pieces}{detail}"

    def content(self, ending: str, title: str, printing: Printing) -> bytes:
        from ..shop.cut_drawing import drawing

        contours = drawing(self.value, ())
        if ending == "pdf":
            from ..files.pdf import pdf_bytes
            from ..shop.pages import paged

            return pdf_bytes(paged(self.value, contours, printing.paper, shown=printing.shown), title)
        if ending == "step":
            from ..kernel.step_out import step_bytes

            return step_bytes(contours=contours)
        from ..files.drawing_file import drawing_bytes

        return drawing_bytes(ending, contours, title)

    def report(self) -> dict[str, Any]:
        return {"blank": blank_part(self.value)}


def blank_part(blank: Blank) -> dict[str, Any]:
    """A blank, as a report has it."""
    figures = blank.figures
    part: dict[str, Any] = {
        "way": blank.way,
        "faces": list(blank.faces),
        "area_form": figures.area_form,
        "area_blank": figures.area_blank,
        "area_change": figures.area_change,
        "stretch_max": figures.stretch_max,
        "stretch_min": figures.stretch_min,
        "bounds": list(blank.bounds),
        "outline_length": figures.outline_length,
        "pieces": figures.pieces,
        "flipped": figures.flipped,
        "round_trip_max": figures.round_trip_max,
        "seconds": figures.seconds,
    }
    if blank.verdict is not None:
        part["verdict"] = {
            "material": blank.verdict.material.name,
            "can_take_it": blank.verdict.can,
            "failing_percent": 100 * blank.verdict.share,
            "source": blank.verdict.material.source,
        }
    if blank.mesh is not None:
        part["triangles"] = figures.triangles
    return part
