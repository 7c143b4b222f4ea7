"""Pages of paper."""

from __future__ import annotations

from types import MappingProxyType
from typing import TYPE_CHECKING

from ..record import record
from ..wording import counted, size
from .result import Figure, Printing, Result

if TYPE_CHECKING:
    from ..shop.printed import Pages


@record
class PagesResult(Result):
    """``value`` are Pages."""

    value: Pages
    kind = "pages"
    writes = MappingProxyType({"pdf": "writes the pages for the printer"})
    first = whole = ("pdf",)

    def figures(self) -> tuple[Figure, ...]:
        return (
            Figure("pages", str(len(self.value.pages)), "blank"),
            Figure("paper", size(*self.value.paper), "blank"),
        )

    def brief(self) -> str:
        return counted(len(self.value.pages), "page")

    def content(self, ending: str, title: str, printing: Printing) -> bytes:
        from ..files.pdf import pdf_bytes
        from ..files.pdf_back import require_same_pages

        made = pdf_bytes(self.value, title)
        require_same_pages(made, self.value)
        return made
