"""Artwork on a blank."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ..record import record
from ..wording import counted, size
from .result import Figure, Result

if TYPE_CHECKING:
    from ..plane.artwork import Artwork


@record
class ArtworkResult(Result):
    """``value`` is an Artwork, placed; where it was placed by numbers, ``landed`` are x, y (mm) and its scale."""

    value: Artwork
    landed: tuple[float, float, float] | None = None
    kind = "artwork"
    follows = (("wrap", "wrap it onto the form"),)

    def figures(self) -> tuple[Figure, ...]:
        x0, y0, x1, y1 = self.value.bounds
        return (
            Figure("curves", f"{len(self.value.contours):,}", "blank"),
            Figure("points", f"{self.value.segments:,}", "blank"),
            Figure("size", size(x1 - x0, y1 - y0), "blank"),
        )

    def brief(self) -> str:
        return counted(len(self.value.contours), "curve")
