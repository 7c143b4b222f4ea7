"""A word on a piece: its letters as contours, and what it takes to write it larger."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from ..correspondence import Rigid
from ..geometry.curves import Array
from ..lazy import Lazy
from ..plane.contour import Contour
from ..plane.lettering import lettering

RISE = 0.35
"""The middle of a line of text lies so far above its base line, in em squares."""
CLEAR = 0.6
"""The middle of a word stays so far from what it stands beside, in em squares."""


@dataclass(frozen=True)
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
        letters, width = lettering(self.text, self.size)
        middle = Rigid(_turned(self.turn), self.middle(self.size))
        shift = middle.apply(np.array([-width / 2, -RISE * self.size]))
        return tuple(replace(c.moved(1.0, self.turn, shift), layer="TEXT", name=self.text) for c in letters)

    def moved(self, motion: Rigid) -> Word:
        """Laid elsewhere with its piece."""
        turn = self.turn + float(np.arctan2(motion.turn[1, 0], motion.turn[0, 0]))
        return replace(self, at=motion.apply(self.at), turn=turn, away=motion.turn @ self.away)


def _turned(turn: float) -> Array:
    return np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
