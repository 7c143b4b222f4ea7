"""A drawing made ready for a machine that cuts."""

from __future__ import annotations

from dataclasses import field
from types import MappingProxyType
from typing import Any

from ..files.gcode import Beam
from ..plane.contour import total_length
from ..record import record
from ..wording import counted, length
from .drawing import DrawingResult
from .result import Figure, Printing


@record
class PreparedResult(DrawingResult):
    """Contours in the order in which they are run; ``beam`` is how, ``version`` that of a DXF."""

    beam: Beam = field(default_factory=Beam)
    version: str = "R2010"
    writes = MappingProxyType(
        {
            "dxf": "writes the cut file",
            "svg": "writes the cut file",
            "nc": "writes G-code for a laser",
            "step": "writes its curves, flat",
        }
    )

    def figures(self) -> tuple[Figure, ...]:
        leads = [contour for contour in self.value if contour.layer == "LEAD"]
        return (*super().figures(), Figure("leads", length(total_length(leads)), "blank"))

    def brief(self) -> str:
        cut = sum(contour.layer in ("CUT", "CUT_OPEN") for contour in self.value)
        return f"{counted(cut, 'contour')} in order, ready to be cut"

    def content(self, ending: str, title: str, printing: Printing) -> bytes:
        if ending == "nc":
            from ..files.gcode import LEFT_OUT, gcode_bytes
            from ..files.reading_back import require_same

            program = gcode_bytes(self.value, title, self.beam)
            require_same(program, ending, [contour for contour in self.value if contour.layer not in LEFT_OUT])
            return program
        if ending == "dxf" and self.version != "R2010":
            from ..files.drawing_file import drawing_bytes

            return drawing_bytes(ending, self.value, title, self.version)
        return super().content(ending, title, printing)

    def report(self) -> dict[str, Any]:
        def total(*layers: str) -> float:
            return total_length(contour for contour in self.value if contour.layer in layers)

        counts = {
            "contours": sum(c.layer == "CUT" for c in self.value),
            "runs_between_bridges": sum(c.layer == "CUT_OPEN" for c in self.value),
            "leads": sum(c.layer == "LEAD" for c in self.value),
            "entities": sum(len(c.spans[0]) for c in self.value),
        }
        lengths = {
            "length_cut": total("CUT", "CUT_OPEN"),
            "length_mark": total("MARK", "TEXT"),
            "length_leads": total("LEAD"),
        }
        return {"prepared": {**counts, **lengths}}
