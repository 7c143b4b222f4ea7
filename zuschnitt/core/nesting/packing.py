"""Parts laid on sheets, one sheet after the other, each as a strip that is packed from one end, and filled up."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from ..errors import Refused
from ..progress import SILENT, Progress
from .part import Part, Placed, moved
from .room import beside, laid_in_holes, widest
from .sheet import FREE_TURNS, SAME, TURNS, Nest, NestedSheet, Size
from .strip import alone, packed

MOST_SHEETS = 1000
Show = Callable[[list[NestedSheet], list[Part]], None]


def nested(
    parts: Sequence[Part],
    sheets: Sequence[Size],
    how: Nest,
    progress: Progress = SILENT,
    fixed: Sequence[tuple[int, Placed]] = (),
    show: Show = lambda made, left: None,
) -> tuple[list[NestedSheet], list[Part]]:
    """The parts on sheets, and those that fit on none.

    Each of ``sheets`` (width, height) is taken once, in their order; the last one as often as it is needed. ``fixed``
    lie where they are, each on the sheet of its number from 0, and the others are laid round them. ``show`` is told
    the best so far. Raises Refused for values that cannot be.
    """
    _require([*parts, *(placed.part for _, placed in fixed)], sheets, how)
    return _Laying(parts, sheets, how, show).run(progress, fixed)


class _Laying:
    """One sheet after the other, until nothing is ``left``, or nothing of it fits."""

    def __init__(self, parts: Sequence[Part], sheets: Sequence[Size], how: Nest, show: Show) -> None:
        self.sheets, self.how, self._show = sheets, how, show
        self.left, self.too_large = _fitting(parts, sheets, how)
        self._inside, self.left = laid_in_holes(self.left, how.turns, how.gap)
        self.made: list[NestedSheet] = []

    def run(self, progress: Progress, fixed: Sequence[tuple[int, Placed]]) -> tuple[list[NestedSheet], list[Part]]:
        rounds = _rounds(self.left, self.sheets, self.how)
        last_fixed = max((number for number, _ in fixed), default=-1)
        while (self.left or len(self.made) <= last_fixed) and len(self.made) < MOST_SHEETS:
            number = len(self.made)
            told = progress.part(min(0.95, number / rounds), min(0.95, (number + 1) / rounds))
            here = [placed for k, placed in fixed if k == number]
            placed = self._on_sheet(here, told.said(f"sheet {number + 1}"), max(1, round(self.how.seconds / rounds)))
            self.made.append(self._with_inside(placed))
            gone = {id(each.part) for each in placed}
            self.left = [part for part in self.left if id(part) not in gone]
            if len(placed) == len(here) and number >= max(len(self.sheets) - 1, last_fixed):
                break
        while self.made and not self.made[-1].parts:
            self.made.pop()
        return self.made, self._left_over(self.left)

    @property
    def _size(self) -> Size:
        """That of the sheet that is next."""
        return self.sheets[min(len(self.made), len(self.sheets) - 1)]

    def _on_sheet(self, fixed: list[Placed], progress: Progress, seconds: int) -> list[Placed]:
        """What lies on it: what is ``fixed``, a strip packed in the widest free part of it, and what fits beside."""
        how, fitting = self.how, [part for part in self.left if _fits(part, self._size, self.how)]
        if not fitting:
            return list(fixed)
        sheet = how.room(self._size)
        free = sheet if not fixed else widest(sheet, fixed, how.gap)
        in_strip = [part for part in fitting if _fits_in(part, free[2] - free[0], free[3] - free[1], how)]
        placed = list(fixed)
        if in_strip:
            strip = packed(in_strip, free, how, seconds, progress, lambda found: self._so_far([*fixed, *found]))
            placed.extend(strip or [alone(in_strip[0], free, how)])
        taken = {id(each.part) for each in placed}
        rest = [part for part in fitting if id(part) not in taken]
        return [*placed, *beside(rest, placed, sheet, how)]

    def _so_far(self, placed: list[Placed]) -> None:
        gone = {id(each.part) for each in placed}
        rest = self._left_over([part for part in self.left if id(part) not in gone])
        self._show([*self.made, self._with_inside(placed)], rest)

    def _left_over(self, parts: Sequence[Part]) -> list[Part]:
        """The parts, with those that were to lie in their holes, and all that is too large."""
        nowhere = (0.0, 0.0), 0.0
        held = [
            each.part
            for part in parts
            if id(part) in self._inside
            for each in self._inside[id(part)](Placed(part, *nowhere))
        ]
        return [*self.too_large, *parts, *held]

    def _with_inside(self, placed: Sequence[Placed]) -> NestedSheet:
        """The sheet that is next with its parts, and those that lie in their holes."""
        carried = [
            deeper for each in placed if id(each.part) in self._inside for deeper in self._inside[id(each.part)](each)
        ]
        return NestedSheet(self._size, (*placed, *carried))


def _require(parts: Sequence[Part], sheets: Sequence[Size], how: Nest) -> None:
    if not parts or not sheets:
        raise Refused("Nesting needs parts and a sheet to lay them on; name both.")
    if how.grain not in TURNS:
        raise Refused(f"The grain runs {', '.join(TURNS)}; {how.grain!r} is none of these.")
    if not (np.isfinite([how.gap, how.margin]).all() and min(how.gap, how.margin) >= 0):
        raise Refused("The gap and the margin must be 0 mm or more; change them.")
    for width, height in sheets:
        if min(width, height) <= 2 * how.margin:
            raise Refused(f"A margin of {how.margin:g} mm leaves nothing of a sheet of {width:g} x {height:g} mm.")


def _rounds(parts: Sequence[Part], sheets: Sequence[Size], how: Nest) -> int:
    """About how many sheets it will take."""
    width, height = sheets[-1]
    room = (width - 2 * how.margin) * (height - 2 * how.margin)
    return max(1, int(np.ceil(sum(part.shape.area for part in parts) / 0.7 / room)))


def _fitting(parts: Sequence[Part], sheets: Sequence[Size], how: Nest) -> tuple[list[Part], list[Part]]:
    fits = [any(_fits(part, size, how) for size in sheets) for part in parts]
    return [p for p, f in zip(parts, fits, strict=True) if f], [p for p, f in zip(parts, fits, strict=True) if not f]


def _fits(part: Part, size: Size, how: Nest) -> bool:
    """Whether a part fits on a sheet at one of the turns that are allowed, alone."""
    return _fits_in(part, size[0] - 2 * how.margin, size[1] - 2 * how.margin, how)


def _fits_in(part: Part, wide: float, high: float, how: Nest) -> bool:
    for turn in how.turns or FREE_TURNS:
        x0, y0, x1, y1 = moved(part.shape, (0.0, 0.0), turn).bounds
        if x1 - x0 <= wide + SAME and y1 - y0 <= high + SAME:
            return True
    return False
