"""Sweep: a section run along lines that lie on a blank, on its form."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from ..errors import CannotBeDone, Refused
from ..parameters import choice, file, origin, source
from ..progress import Progress
from ..results.bodies import BodiesResult
from ..results.result import Outcome, outcome
from ..wording import counted
from .registry import operation

if TYPE_CHECKING:
    from ..plane.contour import Contour


@operation(
    "sweep",
    title="Run a section along lines",
    stage="blank>form",
    group="Bodies",
    gives="form",
    takes="lines on a blank, a closed section",
    makes="a bar along each line, on the form",
)
@dataclass(frozen=True)
class Sweep:
    artwork: Any = source("artwork", hint="the lines; the section runs along each of them")
    section: Any = file(".svg", ".dxf", hint="the section, one closed outline; its origin runs along the line")
    blank: Any = origin("artwork", "blank")
    form: Any = origin("artwork", "form")
    upright: Any = choice(
        "surface",
        {"surface": "square to the surface", "axis": "upright to the axis"},
        "how the section stands: square to line and surface, or in the planes through the axis of a cylinder or cone",
    )

    sentence = "Run {section} along the lines of {artwork}, {upright}."

    def run(self, progress: Progress) -> Outcome:
        from ..carry.tracks import tracks
        from ..solids.bodies import form_of_bodies, made_body
        from ..solids.sweeping import swept

        section = self._section(progress.part(0, 0.1))
        lines = [c for c in self.artwork.contours if c.layer != "REFERENCE"]
        found = tracks(self.form, self.blank.correspondence, lines, progress.part(0.1, 0.3))
        if not found:
            raise CannotBeDone("None of the lines lies on the blank; move or scale them.")
        made = []
        for k, track in enumerate(found):
            progress.step(0.3 + 0.5 * k / len(found), "running the section along")
            carried = swept(track, section, self.upright)
            made.append(made_body(track.name, carried.shape, carried.deviation))
        messages = []
        parts = sum(1 for track in found if ", part " in track.name)
        if parts:
            messages.append(
                f"Lines with corners, or that leave the blank, became {counted(parts, 'bar')}, square at their ends."
            )
        progress.step(0.8, "reading faces")
        return outcome(BodiesResult(form_of_bodies(made, "bars"), tuple(made)), messages=messages)

    def _section(self, progress: Progress) -> Contour:
        from ..files.artwork_file import read_artwork

        drawing = read_artwork(self.section.content, self.section.name, progress)
        closed = [contour for contour in drawing.contours if contour.closed]
        if len(closed) != 1 or len(drawing.contours) != 1:
            raise Refused(
                f"{self.section.name} must hold one closed outline to be a section; it holds "
                f"{counted(len(drawing.contours), 'line')}, {len(closed)} of them closed."
            )
        return closed[0]
