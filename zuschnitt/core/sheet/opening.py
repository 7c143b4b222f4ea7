"""Which edges are opened, so that a skin hangs together as a tree and can be laid flat."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np

from ..record import record

NEAR = 1e-6
"""Lengths that differ by no more than this part are as long."""
SAME = 1e-9
"""So are seams that differ by no more than this part in all."""
TRIES = 40
"""So many choices are looked for in either way, and one for each wall that others may hang on."""


@record
class Link:
    """Where two zones hang together: at a joint, or at a sharp corner. ``length`` is that of its edges."""

    zones: tuple[int, int]
    edges: tuple[int, ...]
    length: float
    joint: int = -1
    corner: int = -1


def chosen(count: int, links: Sequence[Link], worth: Sequence[float], seed: int = 0) -> tuple[int, ...]:
    """The links, by their places, that are opened so that the rest is a tree of ``count`` zones, or several.

    The longest stay, so that the seams are short in all (Kruskal); of those as long, those at the zones of most
    ``worth``. A ``seed`` above 0 lets shorter ones stay now and then, one below 0 takes those as long in another order.
    """
    length = np.array([link.length for link in links])
    value = np.array([worth[link.zones[0]] + worth[link.zones[1]] for link in links])
    if seed < 0:
        value = np.random.default_rng(-seed).random(len(links))
    elif seed:
        length = length * np.random.default_rng(seed).uniform(1.0 - min(0.9, 0.1 * seed), 1.0, len(length))
    scale = max(float(length.max()), 1e-300) * NEAR if len(links) else 1.0
    order = sorted(range(len(links)), key=lambda k: (-round(float(length[k]) / scale), -value[k], k))
    root = list(range(count))

    def find(k: int) -> int:
        while root[k] != k:
            k = root[k]
        return k

    opened = []
    for k in order:
        a, b = (find(zone) for zone in links[k].zones)
        if a == b:
            opened.append(k)
        root[a] = b
    return tuple(sorted(opened))


def hung_on(count: int, links: Sequence[Link], root: int) -> tuple[int, ...]:
    """The links that are opened so that all zones hang as near as may be to ``root``, on the longest links there."""
    near = {root}
    kept: set[int] = set()
    longest_first = sorted(range(len(links)), key=lambda k: -links[k].length)
    while True:
        ways: dict[int, int] = {}
        for k in longest_first:
            for here, there in (links[k].zones, links[k].zones[::-1]):
                if here in near and there not in near:
                    ways.setdefault(there, k)
        if not ways:
            break
        near.update(ways)
        kept.update(ways.values())
    left = [k for k in range(len(links)) if not near.issuperset(links[k].zones)]  # what does not hang on it at all
    rest = chosen(count, [links[k] for k in left], [0.0] * count)
    opened = {*range(len(links))} - kept - {*left} | {left[k] for k in rest}
    return tuple(sorted(opened))


def choices_of(
    count: int, links: Sequence[Link], worth: Sequence[float], in_all_orders: bool
) -> list[tuple[float, tuple[int, ...]]]:
    """Links to open, by their places, with the length of their seams: the shortest first, equal ones the same.

    ``in_all_orders`` there are more of those as long as each other.
    """
    found: dict[tuple[int, ...], float] = {}

    def take(opened: tuple[int, ...]) -> None:
        found.setdefault(opened, sum(links[k].length for k in opened))

    for seed in (*range(TRIES), *(range(-TRIES, 0) if in_all_orders else ())):
        take(chosen(count, links, worth, seed))
    for root in sorted({zone for link in links for zone in link.zones}, key=lambda zone: -worth[zone]):
        take(hung_on(count, links, root))
    choices: list[tuple[float, tuple[int, ...]]] = []
    for opened, length in sorted(found.items(), key=lambda item: item[1]):
        alike = bool(choices) and length <= choices[-1][0] * (1 + SAME)
        choices.append((choices[-1][0] if alike else length, opened))
    return choices


def together(count: int, links: Iterable[Link]) -> list[set[int]]:
    """The zones in groups that hang together, the largest first."""
    groups = [{k} for k in range(count)]
    for link in links:
        a, b = (next(g for g in groups if zone in g) for zone in link.zones)
        if a is not b:
            groups.remove(b)
            a |= b
    return sorted(groups, key=lambda g: (-len(g), min(g)))


def edges_of(links: Sequence[Link], opened: Iterable[int]) -> list[int]:
    """The numbers of the edges along which links, by their places, are opened."""
    return sorted(edge for k in opened for edge in links[k].edges)
