"""What would help ribs that hold poorly: another place for the first one, or one of them left out."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np

from ..errors import ZuschnittError
from ..geometry.curves import Array
from ..record import record
from .planes import Family
from .ribs import Ribs

SHIFTS = (1 / 8, -1 / 8, 1 / 4, -1 / 4, 3 / 8, -3 / 8, 1 / 2)
"""By these parts of their spacing the ribs of a family are shifted on trial."""
MOST_ADVICE = 2
MOST_TRIED, MOST_MADE = 10, 90
"""So many other arrangements are tried, and so many plates made for it."""


@record
class Advice:
    """``words`` say it; the ribs of the family ``letter`` stand at ``places`` (n,) then."""

    words: str
    letter: str
    places: tuple[float, ...]


def advice(found: Ribs, families: tuple[Family, Family], made: Callable[[tuple[Family, Family]], Ribs]) -> list[Advice]:
    """What leaves fewer complaints than ``found`` has, the best first; each is tried by making such ribs."""
    good: list[tuple[int, int, Advice]] = []
    for k, (trial, changed) in enumerate(_trials(found, families)):
        if k >= min(MOST_TRIED, MOST_MADE // len(found.ribs)):
            break
        try:
            after = len(made(changed).troubles)
        except ZuschnittError:
            continue
        if after < len(found.troubles):
            good.append((after, k, trial))
    return [each for *_, each in sorted(good, key=lambda one: one[:2])[:MOST_ADVICE]]


def _trials(found: Ribs, families: tuple[Family, Family]) -> Iterator[tuple[Advice, tuple[Family, Family]]]:
    """First ribs that are named in a complaint left out, then all of a family shifted."""
    named = {name.partition(".")[0] for trouble in found.troubles for name in trouble.ribs}
    for which, family in enumerate(families):
        mine = sorted(int(name[1:]) - 1 for name in named if name.startswith(family.letter))
        for k in sorted(mine, key=lambda k: abs(k - (len(family.at) - 1) / 2), reverse=True)[:2]:
            if len(family.at) > 1:
                yield _changed(f"leave {family.letter}{k + 1} out", which, families, np.delete(family.at, k))
    for share in SHIFTS:
        for which, family in enumerate(families):
            if len(family.at) > 1:
                by = share * float(np.diff(family.at).min())
                words = f"shift the {family.letter} ribs by {by:+.4g} mm"
                yield _changed(words, which, families, family.at + by)


def _changed(
    words: str, which: int, families: tuple[Family, Family], at: Array
) -> tuple[Advice, tuple[Family, Family]]:
    changed = Family(families[which].letter, families[which].normal, at)
    both = (changed, families[1]) if which == 0 else (families[0], changed)
    return Advice(words, changed.letter, tuple(np.round(at, 6).tolist())), both
