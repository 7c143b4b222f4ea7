"""Check with the laser: a cut file is exported, and the simulated laser reads it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

from ..errors import Refused
from ..parameters import choice, number, origin, source
from ..progress import Progress
from ..results.held import HeldResult
from ..results.laser import LaserResult
from ..results.result import Figure, Outcome, outcome
from .registry import operation


@operation(
    "check_cut",
    title="Check with the laser",
    stage="blank",
    group="Cut out",
    gives=("laser", "held"),
    takes="a cut file",
    makes="its order, time and faults, by a simulated laser that reads the exported file",
)
@dataclass(frozen=True)
class CheckCut:
    drawing: Any = source("drawing", hint="the cut file")
    kerf: Any = number(0.2, "mm", "width of the cut", low=0, high=10)
    feed: Any = number(3000, "", "feed in mm a minute", above=0)
    rapid: Any = number(30000, "", "rapid feed in mm a minute", above=0)
    pierce: Any = number(0.3, "", "seconds for each pierce", low=0)
    done: Any = number(100, "%", "how much of its way is shown as done: scrub it", low=0, high=100)

    back: Any = choice(
        "no",
        {
            "no": "left flat",
            "drawn": "held against its form, as drawn",
            "compensated": "held against its form, kerf put back",
        },
        "whether the cut part is formed back",
    )
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
        from ...standins.files.path import UnreadableError
        from ...standins.laser.machine import Laser, run
        from ..files.dxf import dxf_bytes

        progress.step(0.2, "writing the cut file")
        content = dxf_bytes(self.drawing)
        progress.step(0.4, "running the laser")
        try:
            made = run(content, "cut.dxf", Laser(self.kerf, self.feed, self.rapid, self.pierce))
        except UnreadableError as error:
            raise Refused(str(error)) from None
        said = tuple(fault.text for fault in made.faults[:1])
        if self.back == "no":
            return outcome(LaserResult(made), messages=said)
        if self.blank is None or self.form is None:
            raise Refused("This cut file comes from no blank of a form, so it cannot be formed back; leave it flat.")
        from ..shop.formed_back import held_formed_back

        progress.step(0.7, "forming back")
        held, area = held_formed_back(made, self.form, self.blank, self.kerf if self.back == "compensated" else 0.0)
        larger = Figure("cut area against the blank", f"{area:+.4f} mm²", "blank")
        return outcome(LaserResult(made), HeldResult(held), messages=said, more=(larger,))
