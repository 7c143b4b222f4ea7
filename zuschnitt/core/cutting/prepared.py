"""A drawing made ready to be cut, step by step: lines and arcs, kerf, bridges, leads, order."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..errors import Refused
from ..plane.containing import holes_among, parents
from ..plane.contour import Contour
from ..plane.doubles import each_once
from ..plane.thinning import lighter, segment_count
from ..record import record
from ..wording import Note, counted
from .beam_reach import said_of_beam
from .bridges import bridged
from .kerf import compensated
from .leads import led
from .order import FIRST, cut_order, ordered


@record
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
    once = each_once(cut, across_layers=True)
    if len(once) < len(cut):
        again = counted(len(cut) - len(once), "contour")
        said.append(Note(f"{again} drawn on another of the same shape, left out: each is cut once."))
    cut = once
    if how.tolerance > 0:
        was = segment_count(*cut)
        cut = [lighter(contour, how.tolerance) for contour in cut]
        now = segment_count(*cut)
        said.append(Note(f"{was:,} lines and arcs became {now:,}, within {how.tolerance:g} mm."))
    opened, closed = [c for c in cut if not c.closed], [c for c in cut if c.closed]
    above = parents(closed)  # as it was drawn: once moved, contours near to each other may cross
    if how.kerf > 0:
        moved = compensated(closed, holes_among(above), how.kerf)
        if moved.small:
            small = counted(len(moved.small), "contour")
            said.append(f"{small} too small for a kerf of {how.kerf:g} mm; they stay as drawn.")
        if moved.crossing:
            crossing = counted(len(moved.crossing), "contour")
            said.append(f"{crossing} crossing themselves; they stay as drawn, without kerf.")
        said.extend(said_of_beam(closed, moved, how.kerf))
        if opened:
            its = "its line" if len(opened) == 1 else "their lines"
            said.append(Note(f"{counted(len(opened), 'open contour')} cut on {its}, without kerf."))
        first_of = np.searchsorted(moved.origin, np.arange(len(closed)))
        above = np.where(above >= 0, first_of[above], -1)[moved.origin]
        closed = list(moved.contours)
    order = cut_order(closed, above)
    closed, above = [closed[k] for k in order], _renumbered(above, order)
    leads, without = led(closed, above, how.lead) if how.lead > 0 else ([(c,) for c in closed], 0)
    if without:
        said.append(f"{counted(without, 'contour')} with no room for a lead; they are pierced on their line.")
    made: list[Contour] = []
    whole = held = 0
    for contour, runs, hole in zip(closed, leads, holes_among(above), strict=True):
        if not hole and how.bridges:
            found = bridged(contour, how.bridges, how.bridge)
            whole += len(found) == 1
            held += len(found) > 1
            made.extend(runs if len(found) == 1 else found)
        else:
            made.extend(runs)
    if whole:
        said.append(f"{counted(whole, 'part')} too short for {counted(how.bridges, 'bridge')}; cut whole.")
    if held and how.lead > 0:
        said.append(Note(f"{counted(held, 'part')} held by bridges, pierced on the line where each cut begins."))
    return [*first, *opened, *made], tuple(said)


def _renumbered(above: np.ndarray, order: list[int]) -> np.ndarray:
    """The contours round each (n,), in another order."""
    place = np.argsort(order)
    above = above[order]
    return np.where(above >= 0, place[above], -1) if len(above) else above
