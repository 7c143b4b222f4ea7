"""One way to lay a form flat, measured beside others."""

from __future__ import annotations

from ..geometry.curves import Array
from ..record import record
from .blank import Blank

BINS = 24
WAYS = {"relaxed": "relaxed", "exact": "exact", "parametric": "parametric", "even": "parametric, evenly spaced"}
PURPOSES = {
    "exact": "Take it wherever there is one: every length is true, so sheet, card and board fold back exactly.",
    "relaxed": "Take it to cut material that is formed: lengths are kept as well as can be; the map shows where not.",
    "parametric": "Take it for artwork made for a rectangle: corners go to corners; never cut material by it.",
    "even": "Take it for artwork in a rectangle with even spacing along both directions; never cut material by it.",
}


@record
class Compared:
    """One way: its ``blank``, or why there is none.

    ``bins`` (BINS + 1,) in percent and ``shares`` (BINS,) are the histogram of stretch, both principal ones, by
    area; ``circles`` are test circles of the form mapped to the blank, (n, 2) each.
    """

    way: str
    purpose: str
    blank: Blank | None = None
    refusal: str = ""
    bins: Array | None = None
    shares: Array | None = None
    circles: tuple[Array, ...] = ()

    @property
    def area_change(self) -> float:
        return self.blank.figures.area_change if self.blank is not None else 0.0

    @property
    def stretch_max(self) -> float:
        return self.blank.figures.stretch_max if self.blank is not None else 0.0

    @property
    def stretch_min(self) -> float:
        return self.blank.figures.stretch_min if self.blank is not None else 0.0
