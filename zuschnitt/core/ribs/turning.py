"""Which plate goes in above which where two cross, and the order that follows: slots open up or down accordingly.

Plates of two parallel families slide along one direction, that of the lines in which they cross. On such a line
one of two plates can be drawn out upwards where nothing of the other is above what is left of it there. So each pair
can be put together one way, either way, or not at all. Ways that are forced must not go round in a circle; those that
are free follow the order of the others.
"""

from __future__ import annotations

import heapq
from collections.abc import Mapping, Sequence
from functools import cached_property

import numpy as np

from ..lazy import Lazy
from ..record import record
from .slots import Run, slot_end

TOUCHING = 1e-6
"""In mm."""


@record
class Meeting(Lazy):
    """Two plates ``one`` and ``two`` on the line of their crossing: where each is, and where both are (mm along it).

    ``bands`` are where each is within the other's thickness, beside the line too. A slot is ``width`` wide.
    """

    one: str
    two: str
    runs: tuple[Sequence[Run], Sequence[Run]]
    bands: tuple[Sequence[Run], Sequence[Run]]
    shared: Sequence[Run]
    width: float

    @property
    def pair(self) -> tuple[str, str]:
        return self.one, self.two

    @cached_property
    def ways(self) -> tuple[int, ...]:
        """Which of them, the first (0) or the second (1), can be drawn out upwards from the other one."""
        return self._ways(self.bands) or self._ways(self.runs)

    @cached_property
    def grazes(self) -> bool:
        """Whether they could be put together but for what of them is beside the line, within their thickness."""
        return bool(self.ways) and not self._ways(self.bands)

    def slot_end(self, which: int, span: Run, opens: str) -> float:
        """How far along the line the slot of the first (0) or the second (1) runs at a crossing ``span``."""
        return slot_end(self.runs[which], self.bands[which], span, self.width, opens)

    def _ways(self, there: tuple[Sequence[Run], Sequence[Run]]) -> tuple[int, ...]:
        if len(self.shared) > 1:
            return ()
        found = []
        for above in (0, 1):
            lower, upper = there[1 - above], there[above]
            if self.shared:
                middle = float(np.mean(self.shared[0]))
                lower = _without(lower, middle, self.slot_end(1 - above, self.shared[0], "up"))
                upper = _without(upper, self.slot_end(above, self.shared[0], "down"), middle)
            if not lower or not upper or max(b for _, b in lower) <= min(a for a, _ in upper) + TOUCHING:
                found.append(above)
        return tuple(found)


@record
class Arrangement:
    """``below`` says which plates each one stands above, ``order`` is one from the bottom to the top.

    ``stuck`` are meetings that go neither way; ``circles`` plates that hold each other all together.
    """

    below: Mapping[str, frozenset[str]]
    order: tuple[str, ...]
    stuck: tuple[Meeting, ...]
    circles: tuple[tuple[str, ...], ...]


def arranged(lower: Sequence[str], upper: Sequence[str], meetings: Sequence[Meeting]) -> Arrangement:
    """What stands above what: the plates ``upper`` above the plates ``lower`` where there is a choice."""
    forced: dict[str, set[str]] = {name: set() for name in (*lower, *upper)}
    free: list[Meeting] = []
    stuck: list[Meeting] = []
    for meeting in meetings:
        ways = meeting.ways
        if len(ways) == 1:
            under, above = (meeting.two, meeting.one) if ways[0] == 0 else (meeting.one, meeting.two)
            forced[above].add(under)
        elif ways:
            free.append(meeting)
        else:
            stuck.append(meeting)
    carries = {name for under in forced.values() for name in under}  # of the upper ones, those that must go in early
    every = [*lower, *(name for name in upper if name in carries), *(name for name in upper if name not in carries)]
    order, circles = _sorted_up(forced, {name: k for k, name in enumerate(every)})
    place = {name: k for k, name in enumerate(order)}
    below = {name: set(under) for name, under in forced.items()}
    for meeting in (*free, *stuck):
        under, above = sorted((meeting.one, meeting.two), key=place.__getitem__)
        below[above].add(under)
    return Arrangement({n: frozenset(under) for n, under in below.items()}, order, tuple(stuck), circles)


def each_its_own_way(
    ones: Sequence[str], meetings: Sequence[Meeting], below: bool
) -> tuple[frozenset[str], list[Meeting]]:
    """Which plates of the first family stand ``below`` all those that they meet, and the meetings that are stuck.

    The others stand already, and each of ``ones`` slides in along a direction of its own: above them all or below.
    """
    mine: dict[str, list[Meeting]] = {name: [] for name in ones}
    for meeting in meetings:
        mine[meeting.one].append(meeting)
    found: list[str] = []
    stuck: list[Meeting] = []
    for name, met in mine.items():
        ways = [each for each in (below, not below) if all(int(each) in meeting.ways for meeting in met)]
        way = ways[0] if ways else below
        if way:
            found.append(name)
        if not ways:
            stuck += [meeting for meeting in met if int(way) not in meeting.ways]
    return frozenset(found), stuck


def _sorted_up(
    forced: Mapping[str, set[str]], rank: Mapping[str, int]
) -> tuple[tuple[str, ...], tuple[tuple[str, ...], ...]]:
    """Each after all that it stands above, else by ``rank``; and what goes round in circles."""
    over: dict[str, list[str]] = {name: [] for name in forced}
    for upper, under in forced.items():
        for lower in under:
            over[lower].append(upper)
    waits = {name: len(under) for name, under in forced.items()}
    free = [(rank[name], name) for name, count in waits.items() if count == 0]
    heapq.heapify(free)
    order: list[str] = []
    circles: list[tuple[str, ...]] = []
    left = set(forced)
    while left:
        if free:
            name = heapq.heappop(free)[1]
            if name not in left:
                continue
        else:
            circle = _circle(forced, left)
            circles.append(circle)
            name = min(circle, key=rank.__getitem__)
        order.append(name)
        left.discard(name)
        for upper in over[name]:
            waits[upper] -= 1
            if waits[upper] == 0 and upper in left:
                heapq.heappush(free, (rank[upper], upper))
    return tuple(order), tuple(circles)


def _circle(forced: Mapping[str, set[str]], left: set[str]) -> tuple[str, ...]:
    """Plates that stand above each other all round; each of ``left`` stands above another of them."""
    path, at = [], min(left)
    while at not in path:
        path.append(at)
        at = min(forced[at] & left)
    return tuple(sorted(path[path.index(at) :]))


def _without(runs: Sequence[Run], low: float, high: float) -> list[Run]:
    """Runs but for what lies from ``low`` to ``high``."""
    parts = [part for a, b in runs for part in ((a, min(b, low)), (max(a, high), b))]
    return [(a, b) for a, b in parts if b - a > TOUCHING]
