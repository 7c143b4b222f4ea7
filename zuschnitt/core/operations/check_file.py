"""Check a file with the laser: the simulated laser reads a cut file as it came."""

from __future__ import annotations

from typing import Any, ClassVar

from ..errors import Refused
from ..parameters import choice, file, number, optional_source, origin
from ..progress import Progress
from ..results.result import Outcome
from .registry import operation
from .shop_outcome import BACK, cut_by_laser


@operation(
    "check_file",
    title="Check a file with the laser",
    stage="blank",
    group="Cut out",
    gives=("laser", "held"),
    takes="a cut file from elsewhere: DXF, SVG or G-code",
    makes="its order, time and faults, by a simulated laser that reads it as it is",
)
class CheckFile:
    file: Any = file(".dxf", ".svg", ".nc", ".gcode", ".ngc", ".tap", hint="a cut file: DXF, SVG or G-code")
    kerf: Any = number(0.2, "mm", "width of the cut", low=0, high=10)
    feed: Any = number(3000, "", "feed in mm a minute", above=0)
    rapid: Any = number(30000, "", "rapid feed in mm a minute", above=0)
    pierce: Any = number(0.3, "", "seconds for each pierce", low=0)
    done: Any = number(100, "%", "how much of its way is shown as done: scrub it", low=0, high=100)

    back: Any = choice("no", BACK, "whether the cut part is formed back")
    blank: Any = optional_source("blank", words="no blank", hint="the blank that the file is a cut file of")
    form: Any = origin("blank", "form")

    sentence = "Run {file} on a laser with a kerf of {kerf}, {done} of the way."
    slides: ClassVar[str] = "done"
    ends: ClassVar[tuple[str, str]] = ("whole", "cut")
    clauses = (
        ("feeds", "It cuts at {feed} mm/min, goes at {rapid} mm/min and pierces for {pierce} s."),
        ("formed back", "What is cut is {back}, as {blank} was developed."),
    )

    def run(self, progress: Progress) -> Outcome:
        from ...standins.laser.machine import Laser

        if self.back != "no" and (self.blank is None or self.form is None):
            raise Refused(
                "No blank of a form is named, so what is cut cannot be formed back; name it, or leave it flat."
            )
        laser = Laser(self.kerf, self.feed, self.rapid, self.pierce)
        return cut_by_laser(self.file.content, self.file.name, laser, self.back, self.blank, self.form, progress)
