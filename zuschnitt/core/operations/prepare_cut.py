"""Prepare for the cutter: kerf, leads, bridges, order, lines and arcs."""

from __future__ import annotations

from typing import Any

from ..parameters import choice, number, source
from ..progress import Progress
from ..results.prepared import PreparedResult
from ..results.result import Outcome, outcome
from .registry import operation


@operation(
    "prepare_cut",
    title="Prepare for the cutter",
    stage="blank",
    group="Cut out",
    gives="drawing",
    takes="a cut file, the width of the cut",
    makes="the same with kerf, leads and bridges, in the order of the cuts, as DXF, SVG or G-code",
)
class PrepareCut:
    drawing: Any = source("drawing", "nest", hint="what is cut: a cut file, or parts laid on sheets")
    kerf: Any = number(0.2, "mm", "width of the cut; parts come out as drawn", low=0, high=50)
    lead: Any = number(0, "mm", "length of the leads into a cut; 0 for none", low=0, high=500)
    bridges: Any = number(0, "", "bridges that hold each part in its sheet", low=0, high=100)
    bridge: Any = number(0.5, "mm", "width of a bridge", above=0, high=100)
    tolerance: Any = number(0, "mm", "within this, lines and arcs take the place of short lines; 0 leaves them", low=0)
    version: Any = choice("R2010", {"R2010": "today's DXF", "R12": "DXF R12 for old machines"}, "version of a DXF")
    feed: Any = number(3000, "", "feed of a cut, in mm a minute", above=0)
    power: Any = number(1000, "", "power of a cut, as the machine counts it", low=0)
    mark_feed: Any = number(6000, "", "feed of a mark, in mm a minute", above=0)
    mark_power: Any = number(200, "", "power of a mark, as the machine counts it", low=0)
    sheet: Any = number(1, "", "which sheet of a nest", low=1)
    pierce: Any = number(0.3, "", "seconds before each cut", low=0, high=600)

    sentence = "Prepare {drawing} for a cut {kerf} wide, led in over {lead}, with {bridges} bridges {bridge} wide."
    clauses = (
        ("lines and arcs", "Within {tolerance}, lines and arcs take the place of short lines."),
        ("feed and power", "Cut at {feed} mm/min with {power}, marked at {mark_feed} mm/min with {mark_power}."),
        ("the sheet of a nest", "Of a nest it takes sheet {sheet}."),
        ("piercing", "Pierce for {pierce} s."),
        ("old machines", "Written as {version}."),
    )

    def run(self, progress: Progress) -> Outcome:
        from ..cutting.prepared import Preparing, prepared
        from ..errors import Refused
        from ..files.gcode import Beam
        from ..nesting.sheet import Nesting

        if self.bridges != int(self.bridges):
            raise Refused(f"{self.bridges:g} bridges cannot be made; give a whole number.")
        contours = self.drawing
        if isinstance(contours, Nesting):
            sheets = contours.sheets
            if self.sheet != int(self.sheet) or self.sheet > len(sheets):
                raise Refused(f"There is no sheet {self.sheet:g}; the nest has {len(sheets)}.")
            contours = sheets[int(self.sheet) - 1].contours()
        how = Preparing(self.kerf, self.lead, int(self.bridges), self.bridge, self.tolerance)
        made, said = prepared(contours, how)
        beam = Beam(self.feed, self.power, self.mark_feed, self.mark_power, self.pierce)
        return outcome(PreparedResult(tuple(made), beam, self.version), messages=said)
