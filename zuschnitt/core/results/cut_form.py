"""A form into which a drawing was cut."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from ..record import record
from ..wording import area, counted, distance, length
from .form import FormResult
from .result import Figure

if TYPE_CHECKING:
    from ..carry.cutting import Hole


@record
class CutFormResult(FormResult):
    """``value`` is the form with its new edges; ``holes`` are those that were cut."""

    holes: tuple[Hole, ...] = ()
    first = ("step", "stl", "3mf")

    def figures(self) -> tuple[Figure, ...]:
        off = [hole.against_projection for hole in self.holes if hole.against_projection is not None]
        found = [
            Figure("holes", f"{len(self.holes):,}", "form"),
            Figure("cut out", area(sum(hole.area for hole in self.holes)), "form"),
            Figure("their edges", length(sum(hole.length for hole in self.holes)), "form"),
        ]
        if off:
            found.append(Figure("beside a projection", distance(max(off))))
        return (*found, *super().figures())

    def brief(self) -> str:
        return f"{counted(len(self.holes), 'hole')} · {counted(len(self.value.faces), 'face')}"

    def report(self) -> dict[str, Any]:
        found = []
        for hole in self.holes:
            about: dict[str, Any] = {"name": hole.name, "area": hole.area, "length": hole.length}
            if hole.against_projection is not None:
                about["against_projection"] = hole.against_projection
            found.append(about)
        return {"holes": found}
