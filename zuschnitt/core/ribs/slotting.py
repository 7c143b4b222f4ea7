"""Slots where ribs of two families cross, and which of them hold poorly."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace

import numpy as np
import shapely

from ..errors import Refused
from .rib import Making, Rib
from .slots import Crossing, Slot, slot_width, spans_of, taken_away
from .trouble import Trouble

LOW = 2.0
"""A crossing lower than so many thicknesses gives slots that hold poorly."""
NEAR = 0.5
"""So many thicknesses of material have to be left beside a slot."""


def slotted(
    ones: list[Rib], twos: list[Rib], how: Making, halves: str
) -> tuple[dict[str, Rib], list[Trouble], list[tuple[str, str]]]:
    """The ribs with their slots, what is wrong, and all pairs that cross; slots of the first family open ``halves``.

    Raises Refused where slots would have no width.
    """
    every = [*ones, *twos]
    crossings = {(a.name, b.name): each for a in ones for b in twos if (each := Crossing.of(a.frame, b.frame))}
    runs = _runs(every, crossings)
    cuts: dict[str, list[shapely.Geometry]] = {rib.name: [] for rib in every}
    slots: dict[str, list[Slot]] = {rib.name: [] for rib in every}
    other = "down" if halves == "up" else "up"
    troubles: list[Trouble] = []
    met: list[tuple[str, str]] = []
    for one in ones:
        for two in twos:
            pair = one.name, two.name
            levels = [runs.get((name, *pair), []) for name in pair]
            shared = Crossing.shared(*levels)
            if not shared:
                continue
            crossing = crossings[pair]
            width = slot_width(how.thickness, how.fit, one.frame.normal, two.frame.normal)
            if width <= 0:
                raise Refused(f"A fit of {how.fit:g} mm leaves slots without width; take a larger one.")
            met.append(pair)
            troubles += _poor(pair, crossing, shared, how.thickness)
            for low, high in shared:
                for rib, mate, opens, own in ((one, two, halves, levels[0]), (two, one, other, levels[1])):
                    foot, way = crossing.on(rib.frame)
                    at = foot + (low + high) / 2 * way
                    slots[rib.name].append(Slot(mate.name, at, width, (high - low) / 2, opens, way))
                    cuts[rib.name].append(taken_away(crossing, rib.frame, own, (low, high), width, opens, how.tool))
    ready = {
        rib.name: replace(
            rib,
            area=rib.area.difference(shapely.union_all(np.array(cuts[rib.name]))) if cuts[rib.name] else rib.area,
            slots=tuple(slots[rib.name]),
        )
        for rib in every
    }
    bare = {rib.name: rib.area for rib in every}
    return ready, [*troubles, *_near_an_edge(bare, ready.values(), how.thickness)], met


def _runs(
    every: Sequence[Rib], crossings: Mapping[tuple[str, str], Crossing]
) -> dict[tuple[str, ...], list[tuple[float, float]]]:
    """From where to where each rib is there on the line of each crossing, by its name and those of the pair."""
    pairs: dict[str, list[tuple[str, str]]] = {rib.name: [] for rib in every}
    for pair in crossings:
        for name in pair:
            pairs[name].append(pair)
    runs: dict[tuple[str, ...], list[tuple[float, float]]] = {}
    for rib in every:
        mine = pairs[rib.name]
        found = spans_of([crossings[pair] for pair in mine], rib.area, rib.frame)
        runs.update({(rib.name, *pair): spans for pair, spans in zip(mine, found, strict=True)})
    return runs


def _poor(
    pair: tuple[str, str], crossing: Crossing, shared: Sequence[tuple[float, float]], thickness: float
) -> list[Trouble]:
    """What is wrong where two ribs cross: too little height, or more than once."""
    one, two = pair
    middles = crossing.foot + np.mean(shared, axis=1)[:, None] * crossing.way
    found = []
    for (low, high), middle in zip(shared, middles, strict=True):
        if high - low < LOW * thickness:
            said = (
                f"{one} and {two} cross over {high - low:.3g} mm only; "
                "their slots hold poorly: shift the first rib, or leave one out."
            )
            found.append(Trouble(said, pair, middle[None], stops=False))
    if len(shared) > 1:
        said = (
            f"{one} and {two} cross more than once, so they cannot be slid into each other, "
            "whichever way their slots open; leave one of them out."
        )
        found.append(Trouble(said, pair, middles))
    return found


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
