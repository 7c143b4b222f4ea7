"""Reliefs: cuts on a form at which its blank opens."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ..record import record
from ..wording import counted, length
from .result import Figure, Result

if TYPE_CHECKING:
    from ..reliefs.relief import Relief


@record
class ReliefsResult(Result):
    """``value`` are Reliefs, in order."""

    value: tuple[Relief, ...]
    kind = "reliefs"
    plain = True
    follows = (("develop", "develop with them"),)

    def figures(self) -> tuple[Figure, ...]:
        return (Figure("to cut", length(sum(relief.length for relief in self.value)), "form"),)

    def brief(self) -> str:
        return counted(len(self.value), "relief")
