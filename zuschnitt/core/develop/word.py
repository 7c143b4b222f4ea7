"""A word on a piece: its letters as contours, and what it takes to write it larger."""

from __future__ import annotations

from dataclasses import field, replace
from functools import cached_property

import numpy as np

from ..correspondence import Rigid
from ..geometry.curves import Array
from ..lazy import Lazy
from ..plane.contour import Contour
from ..plane.lettering import lettering
from ..record import record

RISE = 0.35
"""The middle of a line of text lies so far above its base line, in em squares."""
CLEAR = 0.6
"""The middle of a word stays so far from what it stands beside, in em squares."""


@record
class Word(Lazy):
    """``text`` of a ``size``, the height of the em square in mm, read along ``turn``, in radians.

    Its middle lies ``away`` (2,), in mm, from ``at`` (2,), the point that it tells about: written larger, it stays
    beside that.
    """

    text: str
    size: float
    at: Array
    turn: float = 0.0
    away: Array = field(default_factory=lambda: np.zeros(2))

    def middle(self, size: float) -> Array:
        """Where its middle lies (2,) if it is written in that size."""
        apart = float(np.linalg.norm(self.away))
        return self.at + self.away * max(1.0, CLEAR * size / apart) if apart > 0 else self.at

    @cached_property
    def contours(self) -> tuple[Contour, ...]:
        """Its letters, closed, on layer TEXT."""
        there = (letter.moved(1.0, self.turn, self.middle(self.size)) for letter in centred(self.text, self.size))
        return tuple(replace(letter, layer="TEXT", name=self.text) for letter in there)

    def moved(self, motion: Rigid) -> Word:
        """Laid elsewhere with its piece."""
        turn = self.turn + motion.angle
        return replace(self, at=motion.apply(self.at), turn=turn, away=motion.turn @ self.away)


def centred(text: str, size: float) -> list[Contour]:
    """The letters of a word with its middle at the origin."""
    letters, width = lettering(text, size)
    return [letter.moved(at=(-width / 2, -RISE * size)) for letter in letters]
