"""A drawing made ready to be cut, step by step: lines and arcs, kerf, bridges, leads, order."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..errors import Refused
from ..plane.containing import holes
from ..plane.contour import Contour
from ..plane.thinning import thinned
from ..wording import Note, counted
from .bridges import bridged
from .kerf import compensated
from .leads import led
from .order import FIRST, cut_order, ordered


@dataclass(frozen=True)
class Preparing:
    """``kerf``, ``lead`` and the width of a ``bridge`` in mm; ``bridges`` on each part; lines and arcs are put in place
    of runs of short ones within ``tolerance`` mm."""

    kerf: float = 0.0
    lead: float = 0.0
    bridges: int = 0
    bridge: float = 0.5
    tolerance: float = 0.0


def prepared(contours: Sequence[Contour], how: Preparing) -> tuple[list[Contour], tuple[str, ...]]:
    """The contours in the order in which they are run, and what is to be said of them.

    Raises Refused where nothing is cut.
    """
    said: list[str] = []
    first = ordered([c for c in contours if c.layer in FIRST])
    cut = [c for c in contours if c.layer not in FIRST]
    if not cut:
        raise Refused("There is nothing on the layer CUT; export the drawing with what is to be cut on that layer.")
    if how.tolerance > 0:
        light = thinned(cut, how.tolerance)
        cut = list(light.contours)
        was, now = light.segments
        said.append(Note(f"{was:,} lines and arcs became {now:,}, within {how.tolerance:g} mm."))
    opened, closed = [c for c in cut if not c.closed], [c for c in cut if c.closed]
    if how.kerf > 0:
        closed, small, crossing = compensated(closed, how.kerf)
        if small:
            said.append(f"{counted(small, 'contour')} too small for a kerf of {how.kerf:g} mm; they stay as drawn.")
        if crossing:
            said.append(f"{counted(crossing, 'contour')} crossing themselves; they stay as drawn, without kerf.")
    order = cut_order(closed)
    closed = [closed[k] for k in order]
    inner = holes(closed)
    leads, without = led(closed, inner, how.lead) if how.lead > 0 else ([(c,) for c in closed], 0)
    if without:
        said.append(f"{counted(without, 'contour')} with no room for a lead; they are pierced on their line.")
    made: list[Contour] = []
    whole = 0
    for contour, runs, hole in zip(closed, leads, inner, strict=True):
        if not hole and how.bridges:
            found = bridged(contour, how.bridges, how.bridge)
            whole += len(found) == 1
            made.extend(runs if len(found) == 1 else found)
        else:
            made.extend(runs)
    if whole:
        said.append(f"{counted(whole, 'part')} too short for {counted(how.bridges, 'bridge')}; cut whole.")
    return [*first, *opened, *made], tuple(said)
