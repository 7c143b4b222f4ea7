"""Flats in place of an arc: how many, on which side of it, and where their corners lie."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..errors import CannotBeDone, WrongCall
from ..geometry.curves import Array
from ..record import record

SIDES = ("inside", "middle", "outside")
"""Where the flats lie: their corners on the arc, half in and half out, or their middles on it."""
MOST = 200
LARGE = 50.0
"""From this inside radius on, in mm, a bend is a large one."""
WIDEST = 0.75 * np.pi
"""No flat stands for more of an arc than this, in radians."""
ROUNDS = 60
"""Of the iteration for flats that lie half in and half out; each halves what is left at least."""


@record
class Steps:
    """Each bend with an inside radius over ``over`` mm becomes ``count`` flats, with small bends between.

    ``side`` is one of SIDES. The small bends have the inside ``radius``, None for that of the part.
    """

    count: int
    over: float = LARGE
    side: str = "inside"
    radius: float | None = None


@record
class Stepped:
    """What became of one large bend: how many flats, how wide each is, and how far it is off the arc at most, in mm."""

    flats: int
    width: float
    gap: float


@record
class Chords:
    """Flats of one width whose corners lie on a circle about the middle of an arc.

    That circle is ``size`` times as large as the arc; a flat spans ``step`` radians. A wall beside the arc runs on,
    tangent to it, up to the corner that lies ``first`` radians into the arc. ``off`` is how far flats are off the arc
    at most, as a part of its radius.
    """

    count: int
    step: float
    first: float
    size: float

    @property
    def off(self) -> float:
        return float(max(self.size - 1, 1 - self.size * np.cos(self.step / 2)))

    def turns(self, walls: Sequence[bool]) -> Array:
        """The turn at each corner (count + 1,) in radians: the first and the last are 0 where no wall runs on."""
        found = np.full(self.count + 1, self.step)
        found[[0, -1]] = np.where(walls, self.first + self.step / 2, 0.0)
        return found


def chords(total: float, count: int, side: str, walls: int) -> Chords:
    """Flats in place of an arc of ``total`` radians that runs on into so many ``walls``, 0 to 2.

    Raises WrongCall and CannotBeDone.
    """
    if side not in SIDES:
        raise WrongCall(f"The flats lie {', '.join(SIDES)} of the arc; {side!r} is none of these.")
    step, first = total / count, 0.0
    if step > WIDEST:
        raise CannotBeDone(
            f"With {count} flats each would stand for {np.degrees(step):.3g}° of the bend, which leaves nothing of its "
            "form; take more."
        )
    if side == "inside":
        return Chords(count, step, 0.0, 1.0)
    if side == "outside":
        step = total / (count + walls / 2)
        return Chords(count, step, step / 2 if walls else 0.0, 1 / float(np.cos(step / 2)))
    for _ in range(ROUNDS):
        size = 2 / (1 + float(np.cos(step / 2)))
        first = float(np.arccos(1 / size)) if walls else 0.0
        step = (total - walls * first) / count
    return Chords(count, step, first, size)
