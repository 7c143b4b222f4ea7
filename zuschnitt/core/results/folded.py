"""A stage between blank and form."""

from __future__ import annotations

from types import MappingProxyType
from typing import TYPE_CHECKING, Any

from ..record import record
from ..wording import area
from .result import Figure, Printing, Result

if TYPE_CHECKING:
    from ..develop.folding import FoldMesh


@record
class FoldedResult(Result):
    """``value`` is a light mesh of all stages, to look at, ``fine`` the one that is written and measured; ``share`` is
    the stage between the blank, 0, and the form, 1."""

    value: FoldMesh
    share: float
    area: float
    fine: FoldMesh
    kind = "folded"
    writes = MappingProxyType({"stl": "writes the stage as triangles"})
    first = whole = ("stl",)

    def figures(self) -> tuple[Figure, ...]:
        return (Figure("stage", f"{self.share:g}"), Figure("area", area(self.area), "form"))

    def brief(self) -> str:
        return f"stage {self.share:g} between blank and form"

    def content(self, ending: str, title: str, printing: Printing) -> bytes:
        from ..files.stl import triangles_stl

        return triangles_stl(self.fine.stage(self.share), self.fine.triangles)

    def report(self) -> dict[str, Any]:
        return {"folded": {"stage": self.share, "area": self.area, "triangles": len(self.fine.triangles)}}
