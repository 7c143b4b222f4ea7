"""Bend a body: a body that stands on a blank, bent onto its form."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from ..errors import Refused
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
MOST = 500
"""So many copies stand in a row at the most."""


@operation(
    "stand_body",
    title="Bend a body",
    stage="blank>form",
    group="Bodies",
    gives="form",
    takes="a body that stands on a blank (STEP, or a mesh)",
    makes="the same body on the form, each point at its height along the normal",
)
class StandBody:
    file: Any = file(*STEP, ".stl", ".obj", ".ply", ".3mf", hint="the body; its z = 0 lies on the blank")
    blank: Any = source("blank", hint="the blank it stands on")
    form: Any = origin("blank", "form")
    x: Any = number(0, "mm", "place of its origin, along x")
    y: Any = number(0, "mm", "place of its origin, along y")
    turn: Any = number(0, "°", "turned anticlockwise about its origin")
    fit: Any = choice("none", FITS, "how it is first stretched to the box round the blank")
    scale: Any = number(1, "", "scale; 1 is its own size", above=0)
    stretch_x: Any = number(1, "", "how many times as long along its x", above=0)
    stretch_y: Any = number(1, "", "how many times as long along its y", above=0)
    stretch_z: Any = number(1, "", "how many times as high", above=0)
    count: Any = number(1, "", "how many of it stand in a row", low=1, high=MOST)
    apart_x: Any = number(0, "mm", "from each to the next, along x")
    apart_y: Any = number(0, "mm", "from each to the next, along y")
    lift: Any = number(0, "mm", "how far it is lifted off the blank; negative to sink it")
    mirror: Any = choice(
        "none",
        {"none": "not mirrored", "yz": "mirrored at yz too", "zx": "mirrored at zx too", "xy": "mirrored at xy too"},
        "whether it stands at the other side too, in a plane through the form's origin",
    )

    sentence = "Bend {file}, standing on {blank} at {x}, {y}, turned by {turn}, {scale} times its size, onto the form."
    clauses = (
        ("stretched to fit", "First it is stretched {fit}."),
        (
            "stretched",
            "It is {stretch_x} times as long along its x, {stretch_y} along its y, {stretch_z} times as high.",
        ),
        ("in a row", "{count} of it stand in a row, each {apart_x} along x and {apart_y} along y from the one before."),
        ("lifted", "It is lifted by {lift}."),
        ("the other side", "It is {mirror}."),
    )

    @property
    def _how(self) -> Placement:
        from ..carry.placement import Placement

        if self.count != round(self.count):
            raise Refused(f"{self.count:g} bodies cannot stand in a row; take a whole number.")
        if self.count > 1 and self.apart_x == self.apart_y == 0:
            raise Refused("Bodies in a row would stand in one place; say how far each is from the one before.")
        stretch = (self.stretch_x, self.stretch_y, self.stretch_z)
        apart = (self.apart_x, self.apart_y)
        return Placement(
            self.fit, self.scale, self.turn, (self.x, self.y), self.lift, self.mirror, stretch, round(self.count), apart
        )

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
