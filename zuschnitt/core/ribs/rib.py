"""One plate, and how all of them are made."""

from __future__ import annotations

import shapely

from ..geometry.curves import Array
from ..record import record
from .outlines import PlateFrame
from .slots import PLAIN, Slot, Tool


@record
class Rib:
    """One plate: ``area`` in its own plane, slots cut out; ``faceted`` where its outline is one of straight chords.

    Its name is that of its ``plane``, with a number where the section there is in several pieces. ``from_above`` says
    from which side it is slid in where its slots do not.
    """

    name: str
    frame: PlateFrame
    area: shapely.Geometry
    slots: tuple[Slot, ...]
    mended: str = ""
    faceted: bool = False
    from_above: bool | None = None

    @property
    def plane(self) -> str:
        return self.name.partition(".")[0]

    @property
    def comes_from(self) -> Array:
        """The direction (3,) from which it is slid in, as its slots open, or onto a base plate."""
        above = self.from_above
        if above is None:
            above = not self.slots or any(slot.opens == "down" for slot in self.slots)
        return self.frame.slides if above else -self.frame.slides

    @property
    def pieces(self) -> int:
        return len(shapely.get_parts(self.area))


@record
class Making:
    """How ribs are made: ``outline`` (middle, inner, outer) of the form, ``halves`` (up, down) to which slots of the
    first family open, wider by ``fit``, for a ``tool``. Ribs of an open form reach down to ``floor``, or are a
    ``band`` of that height; none reaches below ``base``. Made ``roughly``, sections are left as the triangles have
    them, and how far edges are from the form is not measured.
    """

    thickness: float
    fit: float = 0.0
    outline: str = "middle"
    halves: str = "up"
    floor: float | None = None
    band: float = 0.0
    base: float | None = None
    tool: Tool = PLAIN
    roughly: bool = False
