"""Bodies that lie in each other."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from ..record import record
from ..wording import coordinates, counted, distance, volume
from .result import Figure, Result

if TYPE_CHECKING:
    from ..form.clash import Clashes


@record
class ClashesResult(Result):
    """``value`` are the clashes."""

    value: Clashes
    kind = "clashes"

    def figures(self) -> tuple[Figure, ...]:
        if not self.value.found:
            return (Figure("clashes", "none", "form"), Figure("smallest gap", distance(self.value.gap), "form"))
        worst = max(self.value.found, key=lambda clash: clash.volume)
        return (
            Figure("clashes", str(len(self.value.found)), "form"),
            Figure("in each other", volume(self.value.volume), "form"),
            Figure("largest at", coordinates(worst.middle), "form"),
        )

    def brief(self) -> str:
        if not self.value.found:
            return f"no clash · {distance(self.value.gap)} apart"
        return f"{counted(len(self.value.found), 'clash')} · {volume(self.value.volume)}"

    def report(self) -> dict[str, Any]:
        each = [
            {"bodies": list(clash.bodies), "volume": clash.volume, "at": clash.middle.tolist()}
            for clash in self.value.found
        ]
        return {"clashes": each, "gap": self.value.gap}
