"""Interlocking ribs."""

from __future__ import annotations

from collections.abc import Iterator
from types import MappingProxyType
from typing import TYPE_CHECKING, Any

from ..record import record
from ..wording import area, counted, distance
from .result import Figure, Printing, Result

if TYPE_CHECKING:
    from ..ribs.ribs import Ribs


@record
class RibsResult(Result):
    """``value`` are Ribs."""

    value: Ribs
    kind = "ribs"
    played = ("apart", "together")
    writes = MappingProxyType({"step": "writes the ribs standing"})
    first = whole = ("step",)

    @property
    def plain(self) -> bool:  # type: ignore[override]  # by what was found
        return self.value.sound

    def figures(self) -> tuple[Figure, ...]:
        ribs = self.value.ribs
        return (
            Figure("ribs", f"{len(self.value.planes):,}", "form"),
            Figure("slots", f"{sum(len(rib.slots) for rib in ribs):,}", "form"),
            Figure("sheet needed", area(sum(rib.area.area for rib in ribs)), "blank"),
            *self._measured(),
            Figure("goes together", "yes" if self.value.possible else "no", "form" if self.value.possible else ""),
        )

    def _measured(self) -> Iterator[Figure]:
        """What is known only where it was asked for."""
        if self.value.edge_distance is not None:
            yield Figure("edge to form", distance(self.value.edge_distance[0]), "form")
        if self.value.density:
            yield Figure("weight", f"{self.value.weight:.4g} kg", "form")

    def brief(self) -> str:
        groups = len(self.value.groups)
        return f"{counted(len(self.value.planes), 'rib')} · {'one group' if groups == 1 else f'{groups} groups'}"

    def content(self, ending: str, title: str, printing: Printing) -> bytes:
        from ..ribs.standing import plates
        from ..solids.plates import plates_step

        return plates_step(plates(self.value), self.value.rods)

    def report(self) -> dict[str, Any]:
        found = []
        for name, plates in self.value.planes.items():
            slots = [
                {"with": s.other.partition(".")[0], "at": s.at.tolist(), "width": s.width, "depth": s.depth,
                 "opens": s.opens, **({} if s.way[1] > 1 - 1e-12 else {"way": s.way.tolist()})}
                for plate in plates for s in plate.slots
            ]  # fmt: skip
            about = {"name": name, "at": plates[0].frame.at, "area": sum(plate.area.area for plate in plates)}
            pieces = sum(plate.pieces for plate in plates)
            mended = "; ".join(dict.fromkeys(plate.mended for plate in plates if plate.mended))
            found.append({**about, "pieces": pieces, "mended": mended, "slots": slots})
        order = [rib.name for rib in self.value.ribs]
        groups = [list(group) for group in self.value.groups]
        assembly = {
            "possible": self.value.possible,
            "order": order,
            "groups": groups,
            "reasons": list(self.value.reasons),
        }
        rods = [
            {"name": rod.name, "from": rod.start.tolist(), "to": rod.end.tolist(), "length": rod.length,
             "diameter": rod.diameter}
            for rod in self.value.rods
        ]  # fmt: skip
        whole: dict[str, Any] = {"area": sum(rib.area.area for rib in self.value.ribs)}
        whole["length_cut"] = self.value.cut_length
        if self.value.edge_distance is not None:
            whole["edge_distance_max"], whole["edge_distance_mean"] = self.value.edge_distance
        if self.value.density is not None:
            whole["weight"] = self.value.weight
        return {"ribs": found, "assembly": assembly, "plates": whole, **({"rods": rods} if rods else {})}
