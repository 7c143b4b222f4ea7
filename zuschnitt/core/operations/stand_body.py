"""Bend a body: a body that stands on a blank, bent onto its form."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from ..form.glimpse import Glimpse
from ..parameters import choice, file, number, origin, source
from ..progress import Progress
from ..results.bodies import BodiesResult
from ..results.result import Outcome, outcome
from .place_artwork import FITS
from .registry import operation

if TYPE_CHECKING:
    from ..carry.placement import Placement

STEP = (".step", ".stp")


@operation(
    "stand_body",
    title="Bend a body",
    stage="blank>form",
    group="Bodies",
    gives="form",
    takes="a body that stands on a blank (STEP, or a mesh)",
    makes="the same body on the form, each point at its height along the normal",
)
@dataclass(frozen=True)
class StandBody:
    file: Any = file(*STEP, ".stl", ".obj", ".ply", ".3mf", hint="the body; its z = 0 lies on the blank")
    blank: Any = source("blank", hint="the blank it stands on")
    form: Any = origin("blank", "form")
    x: Any = number(0, "mm", "place of its origin, along x")
    y: Any = number(0, "mm", "place of its origin, along y")
    turn: Any = number(0, "°", "turned anticlockwise about its origin")
    fit: Any = choice("none", FITS, "how it is first stretched to the box round the blank")
    scale: Any = number(1, "", "scale; 1 is its own size", above=0)
    lift: Any = number(0, "mm", "how far it is lifted off the blank; negative to sink it")
    mirror: Any = choice(
        "none",
        {"none": "not mirrored", "yz": "mirrored at yz too", "zx": "mirrored at zx too", "xy": "mirrored at xy too"},
        "whether it stands at the other side too, in a plane through the form's origin",
    )

    sentence = "Bend {file}, standing on {blank} at {x}, {y}, turned by {turn}, {scale} times its size, onto the form."
    clauses = (
        ("stretched to fit", "First it is stretched {fit}."),
        ("lifted", "It is lifted by {lift}."),
        ("the other side", "It is {mirror}."),
    )

    @property
    def _how(self) -> Placement:
        from ..carry.placement import Placement

        return Placement(self.fit, self.scale, self.turn, (self.x, self.y), self.lift, self.mirror)

    def glimpse(self) -> Glimpse:
        """The bodies as triangles while they move."""
        from ..solids.glimpses import bent_glimpse

        return bent_glimpse(self.form, self.blank, self.file.content, self.file.name, self._how)

    def run(self, progress: Progress) -> Outcome:
        from ..solids.bent_mesh import bent_file
        from ..solids.bodies import form_of_bodies
        from ..solids.by_mesh import said_of
        from ..solids.standing import bent

        how = self._how
        if self.file.name.lower().endswith(STEP):
            made = bent(self.form, self.blank, self.file.content, self.file.name, how, progress.part(0, 0.8))
        else:
            made = bent_file(self.form, self.blank, self.file.content, self.file.name, how)
        progress.step(0.8, "reading faces")
        return outcome(BodiesResult(form_of_bodies(made, self.file.name), made), messages=said_of(made))
