"""Interlocking ribs: plates in two directions, slotted into each other."""

from __future__ import annotations

from collections.abc import Mapping
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

if TYPE_CHECKING:
    from .rods import Rod

LOW = 2.0
"""A crossing lower than so many thicknesses gives slots that hold poorly."""


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

    ``sound`` where nothing was left out, and no crossing holds poorly. ``edge_distance`` is how far the plates' square
    edges are from the form, in mm, at the most and on the average; ``density`` is in g/cm³.
    """

    ribs: tuple[Rib, ...]
    thickness: float
    possible: bool
    groups: tuple[tuple[str, ...], ...]
    reasons: tuple[str, ...]
    messages: tuple[str, ...]
    sound: bool = True
    rods: tuple[Rod, ...] = ()
    edge_distance: tuple[float, float] | None = None
    density: float | None = None

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
    made, messages = bare_ribs(cutter, frames, how, progress)
    missing = bool(messages)
    messages.extend(_mended_words(list(made.values())))
    progress.step(0.85, "cutting slots")
    ones = [rib for rib in made.values() if rib.name.startswith(first.letter)]
    twos = [rib for rib in made.values() if rib.name.startswith(second.letter)]
    halves = "down" if isinstance(first, Fan) else how.halves
    slotted, said, twice, met = _slotted(ones, twos, how, halves)
    if not met:
        raise CannotBeDone("No rib crosses another, so nothing holds together; space them nearer to each other.")
    through: list[tuple[str, str]] = []
    held: tuple[tuple[str, str], ...] = ()
    if not isinstance(first, Family):  # each of them has a way of its own, into the others
        bare = {rib.name: (rib.frame, rib.area) for rib in ones}
        through = run_through(bare)
        order, held = order_of_moves(bare, 1.0 if halves == "up" else -1.0)
        slotted = {name: slotted[name] for name in (*(rib.name for rib in twos), *order)}
    together = groups(list(slotted), met)
    alone = [name for group in together if len(group) == 1 for name in group]
    reasons = [f"{a} and {b} cross more than once, so they cannot be slid into each other." for a, b in twice]
    reasons += [f"{a} and {b} run through each other; space them wider, or take fewer." for a, b in through]
    reasons += [f"{a} and {b} stand in each other's way; leave one of them out." for a, b in held]
    reasons += [f"Nothing holds {name}: it crosses no other rib." for name in alone]
    reasons += [f"{rib.name} falls into {rib.pieces} pieces." for rib in slotted.values() if rib.pieces > 1]
    return Ribs(
        tuple(slotted.values()),
        how.thickness,
        not (twice or alone or through or held),
        together,
        tuple(reasons),
        (*messages, *said, *reasons),
        not (missing or said or reasons),
        edge_distance=None
        if how.roughly
        else edge_distance(cutter.locator, ((rib.frame, rib.area) for rib in made.values()), how.thickness),
    )


def bare_ribs(
    cutter: Cutter, frames: Mapping[str, PlateFrame], how: Making, progress: Progress
) -> tuple[dict[str, Rib], list[str]]:
    """The ribs in these planes, by their names, without slots; and a sentence for each that is left out."""
    made: dict[str, Rib] = {}
    messages = []
    for done, (name, frame) in enumerate(frames.items()):
        progress.step(0.8 * done / len(frames), "cutting sections")
        found = cutter.outline(frame, how.thickness, how.outline)
        if found.area.is_empty:
            messages.append(f"{name} at {frame.at:.4g} mm meets nothing that closes, so it is left out.")
            continue
        made[name] = Rib(name, frame, found.area, (), found.mended, cutter.faceted and how.tool.relieved == "none")
    return made, messages


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


def _slotted(ones: list[Rib], twos: list[Rib], how: Making, halves: str):
    """The ribs with their slots, sentences, pairs that cross more than once, and all that cross."""
    messages: list[str] = []
    twice: list[tuple[str, str]] = []
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
            met.append((one.name, two.name))
            if len(shared) > 1:
                twice.append((one.name, two.name))
            for low, high in shared:
                if high - low < LOW * how.thickness:
                    messages.append(
                        f"{one.name} and {two.name} cross over {high - low:.3g} mm only; "
                        "their slots hold poorly: shift the first rib, or leave one out."
                    )
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
    return ready, messages, twice, met


def _mended_words(ribs: list[Rib]) -> list[str]:
    """A sentence for each way in which sections were mended."""
    said = []
    for mended in dict.fromkeys(rib.mended for rib in ribs if rib.mended):
        names = [rib.name for rib in ribs if rib.mended == mended]
        shown = ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")
        said.append(f"{shown}: {mended}.")
    return said
