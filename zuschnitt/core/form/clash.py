"""What two forms have in common where they should not."""

from __future__ import annotations

from ..geometry.curves import Array
from ..record import record


@record
class Clash:
    """Bodies of two forms that lie in each other: ``volume`` in mm³, its ``middle`` (3,), ``outlines`` of it (n, 3)."""

    bodies: tuple[str, str]
    volume: float
    middle: Array
    outlines: tuple[Array, ...]


@record
class Clashes:
    """All ``found``; the smallest ``gap`` between the forms in mm, 0 where they touch or clash."""

    found: tuple[Clash, ...]
    gap: float
    messages: tuple[str, ...] = ()

    @property
    def volume(self) -> float:
        return sum(clash.volume for clash in self.found)
