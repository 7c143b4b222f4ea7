"""What the simulated laser has done with a cut file."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from ..record import record
from ..wording import counted, length
from .result import Figure, Result

if TYPE_CHECKING:
    from ...standins.laser.machine import Run


@record
class LaserResult(Result):
    """``value`` is a Run."""

    value: Run
    kind = "laser"

    @property
    def plain(self) -> bool:  # type: ignore[override]  # by what was found
        return not self.value.spoilt

    def figures(self) -> tuple[Figure, ...]:
        run = self.value
        return (
            Figure("contours", f"{len(run.cuts):,}", "blank"),
            Figure("pierces", f"{run.pierces:,}", "blank"),
            Figure("to cut", length(run.length_cut), "blank"),
            Figure("rapid", length(run.length_rapid), "blank"),
            Figure("time", f"{run.seconds:.1f} s", "blank"),
            Figure("faults", f"{len(run.faults):,}", "" if run.faults else "blank"),
        )

    def brief(self) -> str:
        faults = counted(len(self.value.faults), "fault") if self.value.faults else "no fault"
        return f"{counted(len(self.value.cuts), 'contour')} · {self.value.seconds:.1f} s · {faults}"

    def report(self) -> dict[str, Any]:
        run = self.value
        return {
            "laser": {
                "contours": len(run.cuts),
                "pierces": run.pierces,
                "length_cut": run.length_cut,
                "length_mark": run.length_mark,
                "length_rapid": run.length_rapid,
                "seconds": run.seconds,
                "order": [
                    {"contour": k, "layer": path.layer, "start": path.spans[0].start.tolist(), "length": path.length}
                    for k, path in enumerate(run.paths, 1)
                ],
                "faults": [
                    {"kind": fault.kind, "layer": fault.layer, "at": list(fault.at), "text": fault.text}
                    for fault in run.faults
                ],
            }
        }
