"""Figures repeated in a row, in a grid, or round a point."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from ..errors import Refused
from ..parameters.choice import choice
from ..parameters.figure_numbers import figure_numbers
from ..parameters.number import number
from ..parameters.place import place
from ..plane.contour import Contour
from .ground import Ground
from .registry import Figure, figure

MOST = 50_000


@figure("row", title="In a row", group="Repeat", says="copies one after the other in a direction")
@dataclass(frozen=True)
class Row(Figure):
    of: Any = figure_numbers("the figures that are repeated")
    count: Any = number(3, "", "how many in all", low=2, high=MOST)
    pitch: Any = number(20, "mm", "the distance from one to the next")
    angle: Any = number(0, "°", "the direction of the row")

    repeats: ClassVar[bool] = True
    sentence = "{kind} {count} of {of} in a row, {pitch} apart, in the direction of {angle}."

    def draw(self, ground: Ground) -> list[Contour]:
        step = self.pitch * _direction(self.angle)
        return _copies(ground.figures(self.of), (k * step for k in range(1, _whole(self.count))))


@figure("grid", title="In a grid", group="Repeat", says="copies along two directions")
@dataclass(frozen=True)
class Grid(Figure):
    of: Any = figure_numbers("the figures that are repeated")
    count: Any = number(3, "", "how many along x", low=1, high=MOST)
    pitch: Any = number(20, "mm", "the distance along x")
    rows: Any = number(2, "", "how many along y", low=1, high=MOST)
    rise: Any = number(20, "mm", "the distance along y")
    angle: Any = number(0, "°", "how far the grid is turned")

    repeats: ClassVar[bool] = True
    sentence = "{kind} {count} × {rows} of {of} in a grid, {pitch} and {rise} apart, turned by {angle}."

    def draw(self, ground: Ground) -> list[Contour]:
        count, rows = _whole(self.count), _whole(self.rows)
        if count * rows > MOST:
            raise Refused(f"{count * rows:,} copies are too many; at most {MOST:,}.")
        along, up = self.pitch * _direction(self.angle), self.rise * _direction(self.angle + 90)
        steps = (i * along + j * up for j in range(rows) for i in range(count) if i or j)
        return _copies(ground.figures(self.of), steps)


TURNS = {"turning": "turning along", "upright": "kept upright"}


@figure("ring", title="Round a point", group="Repeat", says="copies evenly about a centre")
@dataclass(frozen=True)
class Ring(Figure):
    of: Any = figure_numbers("the figures that are repeated")
    count: Any = number(6, "", "how many in all", low=2, high=MOST)
    angle: Any = number(360, "°", "over which angle they stand")
    x: Any = number(0, "mm", "the centre, along x")
    y: Any = number(0, "mm", "the centre, along y")
    place: Any = place("middle", "from where that is measured")
    turns: Any = choice("turning", TURNS, "whether copies turn along")

    repeats: ClassVar[bool] = True
    sentence = "{kind} {count} of {of} over {angle} about {x}, {y} from {place}, {turns}."

    def draw(self, ground: Ground) -> list[Contour]:
        from ..plane.contour import bounds

        count = _whole(self.count)
        centre = ground.frame(self.place).at(self.x, self.y)
        whole = abs(abs(self.angle) - 360) < 1e-9
        step = np.radians(self.angle) / (count if whole else count - 1)
        taken = ground.figures(self.of)
        box = np.reshape(bounds(taken), (2, 2)).mean(axis=0)
        made: list[Contour] = []
        for k in range(1, count):
            turn = float(k * step)
            if self.turns == "turning":
                made.extend(c.moved(1.0, 0.0, -centre).moved(1.0, turn, centre) for c in taken)
            else:
                c, s = np.cos(turn), np.sin(turn)
                offset = np.array([[c, -s], [s, c]]) @ (box - centre) + centre - box
                made.extend(contour.moved(1.0, 0.0, offset) for contour in taken)
        return made


def _whole(count: float) -> int:
    if count != int(count):
        raise Refused(f"{count:g} copies cannot be made; give a whole number.")
    return int(count)


def _direction(degrees: float) -> np.ndarray:
    return np.array([np.cos(np.radians(degrees)), np.sin(np.radians(degrees))])


def _copies(taken: list[Contour], steps: Iterable[np.ndarray]) -> list[Contour]:
    return [contour.moved(1.0, 0.0, step) for step in steps for contour in taken]
