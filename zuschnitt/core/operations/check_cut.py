"""Check with the laser: a cut file is exported, and the simulated laser reads it."""

from __future__ import annotations

from typing import Any, ClassVar

from ..errors import Refused
from ..parameters import choice, number, origin, source
from ..progress import Progress
from ..results.result import Outcome
from .registry import operation
from .shop_outcome import BACK, cut_by_laser


@operation(
    "check_cut",
    title="Check with the laser",
    stage="blank",
    group="Cut out",
    gives=("laser", "held"),
    takes="a cut file",
    makes="its order, time and faults, by a simulated laser that reads the exported file",
)
class CheckCut:
    drawing: Any = source("drawing", hint="the cut file")
    kerf: Any = number(0.2, "mm", "width of the cut", low=0, high=10)
    feed: Any = number(3000, "", "feed in mm a minute", above=0)
    rapid: Any = number(30000, "", "rapid feed in mm a minute", above=0)
    pierce: Any = number(0.3, "", "seconds for each pierce", low=0)
    done: Any = number(100, "%", "how much of its way is shown as done: scrub it", low=0, high=100)

    back: Any = choice("no", BACK, "whether the cut part is formed back")
    blank: Any = origin("drawing", "blank")
    form: Any = origin("drawing", "form")

    sentence = "Run {drawing} on a laser with a kerf of {kerf}, {done} of the way."
    slides: ClassVar[str] = "done"
    ends: ClassVar[tuple[str, str]] = ("whole", "cut")
    clauses = (
        ("feeds", "It cuts at {feed} mm/min, goes at {rapid} mm/min and pierces for {pierce} s."),
        ("formed back", "What is cut is {back}."),
    )

    def run(self, progress: Progress) -> Outcome:
        from ...standins.laser.machine import Laser
        from ..files.dxf import dxf_bytes

        if self.back != "no" and (self.blank is None or self.form is None):
            raise Refused("This cut file comes from no blank of a form, so it cannot be formed back; leave it flat.")
        progress.step(0.2, "writing the cut file")
        laser = Laser(self.kerf, self.feed, self.rapid, self.pierce)
        return cut_by_laser(dxf_bytes(self.drawing), "cut.dxf", laser, self.back, self.blank, self.form, progress)
