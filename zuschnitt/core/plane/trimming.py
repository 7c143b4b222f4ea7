"""A contour without the part of it between two crossings."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..errors import Refused
from ..geometry.curves import Array
from .chaining import chained
from .combining import places
from .contour import Contour
from .spans import Spans


def without_part(contour: Contour, others: Sequence[Contour], point: Array) -> list[Contour]:
    """What is left where the part nearest to ``point`` (2,), up to the next crossings with ``others``, is taken away.

    Raises Refused where nothing crosses it.
    """
    spans = Spans.of([contour])
    i, _, s, _ = spans.meetings(Spans.of(others))
    if not len(i):
        raise Refused("the other figures do not cross it; name some that do.")
    crossings = spans.evaluate(s, i)
    pieces = spans.split(places(len(spans), i, s))
    nearest = int(np.argmin(pieces.distance(np.repeat(point[None], len(pieces), axis=0))))
    gone = np.zeros(len(pieces), bool)
    gone[nearest] = True
    for step in (1, -1):
        k = nearest
        while True:
            at = pieces.end[k] if step == 1 else pieces.start[k]
            if (np.linalg.norm(crossings - at, axis=1) < 1e-6).any():
                break
            k += step
            if contour.closed:
                k %= len(pieces)
            elif not 0 <= k < len(pieces):
                break
            if gone[k]:
                break
            gone[k] = True
    if gone.all():
        raise Refused("nothing is left of it; choose other crossings.")
    return chained(pieces.at(~gone), contour.layer, contour.name)
