"""Interlocking ribs: plates in two directions, slotted into each other."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np
import shapely

from ..errors import CannotBeDone, Refused
from ..form.curves import Array
from ..form.form import Form
from ..progress import SILENT, Progress
from .assembly import groups, order_of_moves, run_through
from .edge_distance import edge_distance
from .fans import Fan, SquareToCurve
from .outlines import Cutter, PlateFrame
from .planes import Family, upright
from .slots import PLAIN, Crossing, Slot, Tool, slot_width, spans_of, taken_away
from .trouble import Trouble, words_of

if TYPE_CHECKING:
    from .rods import Rod

LOW = 2.0
"""A crossing lower than so many thicknesses gives slots that hold poorly."""
NEAR = 0.5
"""So many thicknesses of material have to be left beside a slot."""


@dataclass(frozen=True)
class Rib:
    """One plate: ``area`` in its own plane, slots cut out; ``faceted`` where its outline is one of straight chords."""

    name: str
    frame: PlateFrame
    area: shapely.Geometry
    slots: tuple[Slot, ...]
    mended: str = ""
    faceted: bool = False

    @property
    def comes_from(self) -> Array:
        """The direction (3,) from which it is slid in, as its slots open, or onto a base plate."""
        up = all(slot.opens == "up" for slot in self.slots)
        return -self.frame.slides if self.slots and up else self.frame.slides

    @property
    def pieces(self) -> int:
        return len(shapely.get_parts(self.area))


@dataclass(frozen=True)
class Ribs:
    """All plates, in the order in which they are put together, and what hangs together.

    ``troubles`` are ribs that were left out, crossings that hold poorly, and what keeps ribs from going together;
    ``notes`` are other sentences. ``edge_distance`` is how far the plates' square edges are from the form, in mm, at
    the most and on the average; ``density`` is in g/cm³.
    """

    ribs: tuple[Rib, ...]
    thickness: float
    groups: tuple[tuple[str, ...], ...]
    troubles: tuple[Trouble, ...] = ()
    notes: tuple[str, ...] = ()
    rods: tuple[Rod, ...] = ()
    edge_distance: tuple[float, float] | None = None
    density: float | None = None

    @property
    def sound(self) -> bool:
        """Whether nothing was left out, and all crossings hold well."""
        return not self.troubles

    @property
    def possible(self) -> bool:
        """Whether they go together."""
        return not any(trouble.stops for trouble in self.troubles)

    @property
    def reasons(self) -> tuple[str, ...]:
        """Why they do not go together."""
        return words_of(trouble for trouble in self.troubles if trouble.stops)

    @property
    def messages(self) -> tuple[str, ...]:
        """All that is to be said of them."""
        return (*words_of(self.troubles), *self.notes)

    @property
    def stopped(self) -> frozenset[str]:
        """The names of the ribs that do not go together as they are."""
        return frozenset(name for trouble in self.troubles if trouble.stops for name in trouble.ribs)

    def played(self, share: float, away: float) -> list[tuple[Rib, Array]]:
        """Each rib, and how far (3,) it is from its place when ``share`` (0 to 1) of the moves is done.

        The first family, or the base plate, stands from the beginning. All others are ``away`` mm off at first, and go
        in one after the other.
        """
        moving = [rib for rib in self.ribs if rib.name[0] != self.ribs[0].name[0]]
        done = share * len(moving)
        left = {rib.name: away * float(np.clip(1 + k - done, 0, 1)) for k, rib in enumerate(moving)}
        return [(rib, left.get(rib.name, 0.0) * rib.comes_from) for rib in self.ribs]

    @property
    def cut_length(self) -> float:
        """How long all that is cut is, in mm."""
        return float(sum(rib.area.length for rib in self.ribs))

    @property
    def weight(self) -> float:
        """Of all plates, in kg."""
        return float(sum(rib.area.area for rib in self.ribs)) * self.thickness * (self.density or 0.0) * 1e-6


@dataclass(frozen=True)
class Making:
    """How ribs are made: ``outline`` (middle, inner, outer) of the form, ``halves`` (up, down) to which slots of the
    first family open, wider by ``fit``, for a ``tool``. Ribs of an open form reach down to ``floor``, or are a
    ``band`` of that height; none reaches below ``base``. Made ``roughly``, sections are left as the triangles have
    them, and how far edges are from the form is not measured.
    """

    thickness: float
    fit: float = 0.0
    outline: str = "middle"
    halves: str = "up"
    floor: float | None = None
    band: float = 0.0
    base: float | None = None
    tool: Tool = PLAIN
    roughly: bool = False


def interlocking(
    form: Form, first: Family | Fan | SquareToCurve, second: Family, how: Making, progress: Progress = SILENT
) -> Ribs:
    """The ribs of two families.

    Raises Refused for families that stand the same way, CannotBeDone where no two ribs cross.
    """
    frames = _frames(first, second)
    cutter = Cutter(form, how.floor, how.band, how.base, how.roughly)
    made, troubles = bare_ribs(cutter, frames, how, progress)
    progress.step(0.85, "cutting slots")
    ones = [rib for rib in made.values() if rib.name.startswith(first.letter)]
    twos = [rib for rib in made.values() if rib.name.startswith(second.letter)]
    halves = "down" if isinstance(first, Fan) else how.halves
    slotted, said, met = _slotted(ones, twos, how, halves)
    if not met:
        raise CannotBeDone("No rib crosses another, so nothing holds together; space them nearer to each other.")
    troubles += said
    troubles += near_an_edge(made, slotted.values(), how.thickness)
    if not isinstance(first, Family):  # each of them has a way of its own, into the others
        bare = {rib.name: (rib.frame, rib.area) for rib in ones}
        troubles += run_through(bare)
        order, held = order_of_moves(bare, 1.0 if halves == "up" else -1.0)
        troubles += held
        slotted = {name: slotted[name] for name in (*(rib.name for rib in twos), *order)}
    together = groups(list(slotted), met)
    troubles += [
        Trouble(f"Nothing holds {group[0]}: it crosses no other rib.", group) for group in together if len(group) == 1
    ]
    troubles += in_pieces(slotted.values())
    distance = None
    if not how.roughly:
        distance = edge_distance(cutter.locator, ((rib.frame, rib.area) for rib in made.values()), how.thickness)
    return Ribs(
        tuple(slotted.values()),
        how.thickness,
        together,
        tuple(troubles),
        tuple(_mended_words(list(made.values()))),
        edge_distance=distance,
    )


def near_an_edge(bare: Mapping[str, Rib], slotted: Iterable[Rib], thickness: float) -> list[Trouble]:
    """Slots beside whose inner end too little of the plate is left, which breaks away."""
    found = []
    for rib in slotted:
        if not rib.slots:
            continue
        area = bare[rib.name].area
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


def in_pieces(ribs: Iterable[Rib]) -> list[Trouble]:
    """The ribs that fall to pieces."""
    return [Trouble(f"{rib.name} falls into {rib.pieces} pieces.", (rib.name,)) for rib in ribs if rib.pieces > 1]


def bare_ribs(
    cutter: Cutter, frames: Mapping[str, PlateFrame], how: Making, progress: Progress
) -> tuple[dict[str, Rib], list[Trouble]]:
    """The ribs in these planes, by their names, without slots; and a trouble for each that is left out."""
    made: dict[str, Rib] = {}
    troubles = []
    for done, (name, frame) in enumerate(frames.items()):
        progress.step(0.8 * done / len(frames), "cutting sections")
        found = cutter.outline(frame, how.thickness, how.outline)
        if found.area.is_empty:
            said = f"{name} at {frame.at:.4g} mm meets nothing that closes, so it is left out."
            troubles.append(Trouble(said, stops=False))
            continue
        made[name] = Rib(name, frame, found.area, (), found.mended, cutter.faceted and how.tool.relieved == "none")
    return made, troubles


def _frames(first: Family | Fan | SquareToCurve, second: Family) -> dict[str, PlateFrame]:
    """The plane of each plate by its name, those of the first family first."""
    if isinstance(first, Family):
        up = upright(first.normal, second.normal)
        ones = first.frames(np.cross(up, first.normal), up)
    else:
        ones = first.frames
        up = ones[len(ones) // 2].along if isinstance(first, Fan) else first.ways.mean(axis=0)
        up = up / np.linalg.norm(up)
    twos = second.frames(np.cross(second.normal, up), up)
    named = [(first.letter, k, frame) for k, frame in enumerate(ones, 1)]
    named += [(second.letter, k, frame) for k, frame in enumerate(twos, 1)]
    return {f"{letter}{k}": frame for letter, k, frame in named}


def _slotted(
    ones: list[Rib], twos: list[Rib], how: Making, halves: str
) -> tuple[dict[str, Rib], list[Trouble], list[tuple[str, str]]]:
    """The ribs with their slots, what is wrong with them, and all that cross."""
    low_ones: list[Trouble] = []
    twice: list[Trouble] = []
    met: list[tuple[str, str]] = []
    every = [*ones, *twos]
    cuts: dict[str, list[shapely.Geometry]] = {rib.name: [] for rib in every}
    slots: dict[str, list[Slot]] = {rib.name: [] for rib in every}
    other = "down" if halves == "up" else "up"
    crossings = {(a.name, b.name): each for a in ones for b in twos if (each := Crossing.of(a.frame, b.frame))}
    pairs: dict[str, list[tuple[str, str]]] = {rib.name: [] for rib in every}
    for pair in crossings:
        for name in pair:
            pairs[name].append(pair)
    runs: dict[tuple[str, ...], list[tuple[float, float]]] = {}
    for rib in every:
        mine = pairs[rib.name]
        found = spans_of([crossings[pair] for pair in mine], rib.area, rib.frame)
        runs.update({(rib.name, *pair): spans for pair, spans in zip(mine, found, strict=True)})
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
            middles = crossing.foot + np.mean(shared, axis=1)[:, None] * crossing.way
            if len(shared) > 1:
                said = (
                    f"{one.name} and {two.name} cross more than once, so they cannot be slid into each other, "
                    "whichever way their slots open; leave one of them out."
                )
                twice.append(Trouble(said, pair, middles))
            for (low, high), middle in zip(shared, middles, strict=True):
                if high - low < LOW * how.thickness:
                    said = (
                        f"{one.name} and {two.name} cross over {high - low:.3g} mm only; "
                        "their slots hold poorly: shift the first rib, or leave one out."
                    )
                    low_ones.append(Trouble(said, pair, middle[None], stops=False))
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
    return ready, [*low_ones, *twice], met


def _mended_words(ribs: list[Rib]) -> list[str]:
    """A sentence for each way in which sections were mended."""
    said = []
    for mended in dict.fromkeys(rib.mended for rib in ribs if rib.mended):
        names = [rib.name for rib in ribs if rib.mended == mended]
        shown = ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")
        said.append(f"{shown}: {mended}.")
    return said
