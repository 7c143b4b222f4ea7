"""Parts of a nest that are laid by hand: the others stay, or are laid anew round them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ..errors import Refused
from .laid_part import LaidPart
from .part import Placed
from .sheet import NestedSheet, Nesting


def laid_by_hand(nest: Nesting, moves: Sequence[LaidPart]) -> list[tuple[int, Placed, bool]]:
    """Each part of a nest with the number of its sheet, from 0, and whether it was laid by hand.

    Raises Refused for parts and sheets that are not there.
    """
    which = {(placed.part.name, placed.part.copy): k for k, (_, placed) in enumerate(nest.parts)}
    found = [(sheet, placed, False) for sheet, placed in nest.parts]
    for move in moves:
        k = which.get((move.name, move.copy))
        if k is None:
            known = ", ".join(dict.fromkeys(name for name, _ in which))
            raise Refused(f"There is no part {move.name} number {move.copy} on the sheets; there are {known}.")
        if move.sheet > len(nest.sheets) + 1:
            raise Refused(f"There is no sheet {move.sheet}; the nest has {len(nest.sheets)}, and one more can begin.")
        found[k] = (move.sheet - 1, Placed(found[k][1].part, move.at, move.turn % 360), True)
    return found


def arranged(nest: Nesting, moves: Sequence[LaidPart]) -> Nesting:
    """The nest with some parts moved, and all others where they were. Raises Refused as ``laid_by_hand``."""
    found = laid_by_hand(nest, moves)
    count = max(sheet for sheet, _, _ in found) + 1
    sheets = []
    for k in range(max(count, len(nest.sheets))):
        size = nest.sheets[k].size if k < len(nest.sheets) else nest.sizes[min(k, len(nest.sizes) - 1)]
        sheets.append(NestedSheet(size, tuple(placed for sheet, placed, _ in found if sheet == k)))
    while not sheets[-1].parts:
        sheets.pop()
    return replace(nest, sheets=tuple(sheets))
