"""Slots where ribs of two families cross, and which of them hold poorly."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace

import numpy as np
import shapely

from ..errors import Refused
from ..record import record
from .rib import Making, Rib
from .slots import PLAIN, Crossing, Run, Slot, slot_width, spans_of, taken_away
from .trouble import Trouble
from .turning import Arrangement, Meeting, arranged, each_its_own_way

LOW = 2.0
"""A crossing lower than so many thicknesses gives slots that hold poorly."""
LITTLE = 1e-3
"""In mm."""
NEAR = 0.5
"""So many thicknesses of material have to be left beside a slot."""


@record
class Slotted:
    """``ribs`` with their slots by name, what is wrong, and the pairs that have ``met``.

    Ribs that all slide along one direction have an ``arrangement``; else ``below`` are those of the first family that
    stand below the others, so that their slots open up.
    """

    ribs: dict[str, Rib]
    troubles: list[Trouble]
    met: list[tuple[str, str]]
    arrangement: Arrangement | None
    below: frozenset[str]


def slotted(ones: list[Rib], twos: list[Rib], how: Making, halves: str, parallel: bool) -> Slotted:
    """Slots where ribs of two families cross; those of the first family open ``halves``.

    Where all crossings are ``parallel``, those open the other way that would not go together so. Raises Refused where
    slots would have no width.
    """
    every = {rib.name: rib for rib in (*ones, *twos)}
    crossings = {(a.name, b.name): each for a in ones for b in twos if (each := Crossing.of(a.frame, b.frame))}
    meetings = _meetings(every, crossings, how)
    tips = [each for each in meetings if each.grazes and not each.shared]
    if tips:
        whole, every = every, _cut_back(every, tips, crossings)
        anew = {p: each for p, each in crossings.items() if any(every[name] is not whole[name] for name in p)}
        meetings = [each for each in meetings if each.pair not in anew] + _meetings(every, anew, how)
    arrangement, below, stuck = None, frozenset[str](), list[Meeting]()
    if parallel:
        families = [rib.name for rib in ones], [rib.name for rib in twos]
        arrangement = arranged(*(families if halves == "up" else families[::-1]), meetings)
        stuck = list(arrangement.stuck)
    else:
        below, stuck = each_its_own_way([rib.name for rib in ones], meetings, halves == "up")
    cuts: dict[str, list[shapely.Geometry]] = {name: [] for name in every}
    slots: dict[str, list[Slot]] = {name: [] for name in every}
    for meeting in meetings:
        crossing = crossings[meeting.pair]
        up = meeting.one in (arrangement.below[meeting.two] if arrangement is not None else below)
        for which, (name, mate, opens) in enumerate((
            (meeting.one, meeting.two, "up" if up else "down"),
            (meeting.two, meeting.one, "down" if up else "up"),
        )):  # fmt: skip
            frame = every[name].frame
            foot, way = crossing.on(frame)
            for low, high in meeting.shared:
                middle, end = (low + high) / 2, meeting.slot_end(which, (low, high), opens)
                slots[name].append(Slot(mate, foot + middle * way, meeting.width, (high - low) / 2, opens, way))
                cuts[name].append(taken_away(crossing, frame, middle, end, meeting.width, how.tool))
    ready = {
        name: replace(
            rib,
            area=rib.area.difference(shapely.union_all(np.array(cuts[name]))) if cuts[name] else rib.area,
            slots=tuple(slots[name]),
        )
        for name, rib in every.items()
    }
    troubles = [trouble for each in meetings for trouble in _low(each, crossings[each.pair], how.thickness)]
    troubles += _stuck(stuck, crossings)
    troubles += [_grazing(each, crossings[each.pair]) for each in meetings if each.grazes]
    troubles += [_circle(names) for names in (arrangement.circles if arrangement is not None else ())]
    bare = {name: rib.area for name, rib in every.items()}
    troubles += _near_an_edge(bare, ready.values(), how.thickness)
    return Slotted(ready, troubles, [each.pair for each in meetings if each.shared], arrangement, below)


def _cut_back(
    every: Mapping[str, Rib], tips: Iterable[Meeting], crossings: Mapping[tuple[str, str], Crossing]
) -> dict[str, Rib]:
    """Ribs that reach into the thickness of another one but do not cross it end before it: the smaller tip is cut off.

    A rib of which nothing would be left stays.
    """
    found = dict(every)
    for meeting in tips:
        which = int(np.argmin([max(b - a for a, b in runs) for runs in meeting.bands]))
        name, mine, others = meeting.pair[which], meeting.bands[which], meeting.bands[1 - which]
        reached = [run for run in mine if any(a < run[1] and b > run[0] for a, b in others)]
        if not reached:
            continue
        low, high = min(a for a, _ in reached) - LITTLE, max(b for _, b in reached) + LITTLE
        rib = found[name]
        area = rib.area.difference(taken_away(crossings[meeting.pair], rib.frame, low, high, meeting.width, PLAIN))
        if not area.is_empty:
            cut = f"cut back by less than {meeting.width / 2:.2g} mm where it would run into another one"
            mended = rib.mended if cut in rib.mended else "; ".join(filter(None, (rib.mended, cut)))
            found[name] = replace(rib, area=area, mended=mended)
    return found


def _meetings(every: Mapping[str, Rib], crossings: Mapping[tuple[str, str], Crossing], how: Making) -> list[Meeting]:
    """All pairs of which both are there on the line in which their planes cross, or beside it."""
    widths = {
        pair: slot_width(how.thickness, how.fit, *(every[name].frame.normal for name in pair)) for pair in crossings
    }
    runs = _runs(every, crossings, dict.fromkeys(crossings, 0.0))
    beside = [_runs(every, crossings, {p: side * (w - how.fit) / 2 for p, w in widths.items()}) for side in (-1, 1)]
    found = []
    for pair, width in widths.items():
        keys = [(name, *pair) for name in pair]
        levels = runs[keys[0]], runs[keys[1]]
        bands = tuple([run for each in (runs, *beside) for run in each[key]] for key in keys)
        if not all(bands):
            continue
        shared = Crossing.shared(*levels)
        if shared and width <= 0:
            raise Refused(f"A fit of {how.fit:g} mm leaves slots without width; take a larger one.")
        found.append(Meeting(*pair, levels, (bands[0], bands[1]), shared, width))
    return found


def _runs(
    every: Mapping[str, Rib], crossings: Mapping[tuple[str, str], Crossing], off: Mapping[tuple[str, str], float]
) -> dict[tuple[str, ...], list[Run]]:
    """From where to where each rib is there along the line of each crossing, by its name and those of the pair.

    The lines are ``off`` so many mm to the side in the rib's plane.
    """
    pairs: dict[str, list[tuple[str, str]]] = {name: [] for name in every}
    for pair in crossings:
        for name in pair:
            pairs[name].append(pair)
    runs: dict[tuple[str, ...], list[Run]] = {}
    for name, mine in pairs.items():
        lines, aside = [crossings[pair] for pair in mine], np.array([off[pair] for pair in mine])
        found = spans_of(lines, every[name].area, every[name].frame, aside)
        runs.update({(name, *pair): spans for pair, spans in zip(mine, found, strict=True)})
    return runs


def _low(meeting: Meeting, crossing: Crossing, thickness: float) -> list[Trouble]:
    """Crossings of two ribs that have too little height."""
    return [
        Trouble(
            f"{meeting.one} and {meeting.two} cross over {high - low:.3g} mm only; "
            "their slots hold poorly: shift the first rib, or leave one out.",
            meeting.pair,
            (crossing.foot + (low + high) / 2 * crossing.way)[None],
            stops=False,
        )
        for low, high in meeting.shared
        if high - low < LOW * thickness
    ]


def _stuck(meetings: Iterable[Meeting], crossings: Mapping[tuple[str, str], Crossing]) -> list[Trouble]:
    """Pairs that cannot be slid into each other, at the places where they hold each other."""
    found = []
    for each in meetings:
        crossing = crossings[each.pair]
        if len(each.shared) > 1:
            how, where = "cross more than once", each.shared
        else:
            how, where = "reach round each other", [run for runs in each.runs for run in runs]
        said = (
            f"{each.one} and {each.two} {how}, so they cannot be slid into each other, "
            "whichever way their slots open; leave one of them out."
        )
        found.append(Trouble(said, each.pair, crossing.foot + np.mean(where, axis=1)[:, None] * crossing.way))
    return found


def _grazing(meeting: Meeting, crossing: Crossing) -> Trouble:
    said = (
        f"{meeting.one} and {meeting.two} run into each other beside the line in which their middles cross; "
        "shift the first rib, or leave one out."
    )
    ones, twos = meeting.bands
    both = [(max(a, c), min(b, d)) for a, b in ones for c, d in twos]
    low, high = max(both, key=lambda run: run[1] - run[0])
    at = crossing.foot + (low + high) / 2 * crossing.way
    return Trouble(said, meeting.pair, at[None])


def _circle(names: tuple[str, ...]) -> Trouble:
    shown = ", ".join(names[:-1])
    return Trouble(f"{shown} and {names[-1]} hold each other, whichever goes in first; leave one of them out.", names)


def _near_an_edge(bare: Mapping[str, shapely.Geometry], ribs: Iterable[Rib], thickness: float) -> list[Trouble]:
    """Slots beside whose inner end too little of the plate is left, which breaks away."""
    found = []
    for rib in ribs:
        if not rib.slots:
            continue
        area = bare[rib.name]
        shapely.prepare(area)
        side = np.array([[s.way[1], -s.way[0]] for s in rib.slots])
        half = np.array([s.width for s in rib.slots])[:, None] / 2
        middles = np.array([s.at for s in rib.slots])
        for sign in (-1, 1):
            corners = middles + sign * half * side
            beside = shapely.linestrings(np.stack([corners, corners + sign * NEAR * thickness * side], axis=1))
            for k in np.nonzero(~shapely.covers(area, beside))[0]:
                left = area.intersection(beside[k]).length
                said = (
                    f"The slot of {rib.name} for {rib.slots[k].other} leaves {left:.2g} mm beside it, which breaks "
                    "away; shift the first rib, or leave one out."
                )
                at = rib.frame.space(middles[k][None])
                found.append(Trouble(said, (rib.name, rib.slots[k].other), at, stops=False))
    return found
