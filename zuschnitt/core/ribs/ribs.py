"""Interlocking ribs: plates in two directions, slotted into each other."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
import shapely

from ..errors import CannotBeDone
from ..form.form import Form
from ..geometry.curves import Array
from ..progress import SILENT, Progress
from ..record import record
from ..wording import counted, listed
from .assembly import groups, order_of_moves, run_through
from .edge_distance import edge_distance
from .fans import Fan, SquareToCurve
from .outlines import Cutter, PlateFrame
from .planes import Family, upright
from .rib import Making, Rib
from .slotting import slotted
from .trouble import Trouble, words_of
from .turning import Arrangement

if TYPE_CHECKING:
    from .rods import Rod


@record
class Ribs:
    """All plates, in the order in which they are put together, and what hangs together.

    They go in ``one_by_one``, or onto all of the first family. ``upwards`` is an order in which all go in from above.
    ``laid`` is the letter of those that are laid out flat, or both.
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
    one_by_one: bool = False
    upwards: tuple[str, ...] = ()
    laid: str = "both"

    @property
    def planes(self) -> dict[str, tuple[Rib, ...]]:
        """The ribs by the names of their planes: several where a section is in pieces."""
        found: dict[str, tuple[Rib, ...]] = {}
        for rib in self.ribs:
            found[rib.plane] = (*found.get(rib.plane, ()), rib)
        return found

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
        """All that is to be said of them, first what keeps them from going together."""
        return (*words_of(sorted(self.troubles, key=lambda trouble: not trouble.stops)), *self.notes)

    @property
    def stopped(self) -> frozenset[str]:
        """The names of the ribs that do not go together as they are."""
        return frozenset(name for trouble in self.troubles if trouble.stops for name in trouble.ribs)

    def played(self, share: float, away: float) -> list[tuple[Rib, Array]]:
        """Each rib, and how far (3,) it is from its place when ``share`` (0 to 1) of the moves is done.

        The first rib, the first family or the base plate stands from the beginning. All others are ``away`` mm off at
        first, and go in one after the other.
        """
        moving = [rib for rib in self.ribs[1:] if self.one_by_one or rib.name[0] != self.ribs[0].name[0]]
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


def interlocking(
    form: Form, first: Family | Fan | SquareToCurve, second: Family, how: Making, progress: Progress = SILENT
) -> Ribs:
    """The ribs of two families.

    Raises Refused for families that stand the same way, CannotBeDone where no two ribs cross.
    """
    frames = _frames(first, second)
    cutter = Cutter(form, how.floor, how.band, how.base, how.roughly)
    cut, troubles = bare_ribs(cutter, frames, how, progress)
    made = {rib.name: rib for whole in cut.values() for rib in _pieces_of(whole)}
    progress.step(0.85, "cutting slots")
    ones = [rib for rib in made.values() if rib.name.startswith(first.letter)]
    twos = [rib for rib in made.values() if rib.name.startswith(second.letter)]
    halves = "down" if isinstance(first, Fan) else how.halves
    slots = slotted(ones, twos, how, halves, parallel=isinstance(first, Family))
    if not slots.met:
        raise CannotBeDone("No rib crosses another, so nothing holds together; space them nearer to each other.")
    troubles += slots.troubles
    ready, one_by_one, notes = slots.ribs, False, _mended_words(slots.ribs.values())
    if slots.arrangement is not None:
        ready, one_by_one = _put_together(slots.ribs, [rib.name for rib in ones], slots.arrangement)
    else:  # each of them has a way of its own, into the others
        bare = {rib.name: (rib.frame, rib.area) for rib in ones}
        troubles += run_through(bare)
        order, held = order_of_moves(bare, slots.below)
        troubles += held
        ready = {name: ready[name] for name in (*(rib.name for rib in twos), *order)}
    notes += _turned_words(ready, first.letter, halves)
    together = groups(list(ready), slots.met)
    troubles += _loose(ready.values())
    troubles += in_pieces(ready.values())
    distance = None
    if not how.roughly:
        distance = edge_distance(cutter.locator, ((rib.frame, rib.area) for rib in made.values()), how.thickness)
    return Ribs(
        tuple(ready.values()),
        how.thickness,
        together,
        tuple(troubles),
        tuple(notes),
        edge_distance=distance,
        one_by_one=one_by_one,
        upwards=slots.arrangement.order if slots.arrangement is not None else (),
    )


def _pieces_of(rib: Rib) -> list[Rib]:
    """A plate for each piece of a section, from the lowest up; they are numbered where there are several."""
    parts = sorted(shapely.get_parts(rib.area), key=lambda part: (part.bounds[1], part.bounds[0]))
    if len(parts) == 1:
        return [rib]
    return [replace(rib, name=f"{rib.name}.{k}", area=part) for k, part in enumerate(parts, 1)]


def _put_together(ribs: dict[str, Rib], first: list[str], arrangement: Arrangement) -> tuple[dict[str, Rib], bool]:
    """The ribs in the order in which they go together, and whether that is one by one.

    Those of the ``first`` family come first if all others then go in from above or from below; else all go in from
    above, from the lowest up.
    """
    others = [name for name in ribs if name not in set(first)]
    carried = {under for name in first for under in arrangement.below[name]}
    above = {name: bool(arrangement.below[name]) or name not in carried for name in others}
    if any(above[name] and name in carried for name in others):
        return {name: replace(ribs[name], from_above=True) for name in arrangement.order}, True
    return {name: replace(ribs[name], from_above=above.get(name)) for name in (*first, *others)}, False


def _turned_words(ribs: Mapping[str, Rib], letter: str, halves: str) -> list[str]:
    """What is said where slots of the first family do not open as asked."""
    turned = [rib for rib in ribs.values() if rib.name[0] == letter and any(s.opens != halves for s in rib.slots)]
    if not turned:
        return []
    count = sum(slot.opens != halves for rib in turned for slot in rib.slots)
    return [
        f"{counted(count, 'slot')} of {listed([rib.name for rib in turned])} had to be turned over, and those of "
        "their mates too, since they would not go together otherwise."
    ]


def _loose(ribs: Iterable[Rib]) -> list[Trouble]:
    """Plates that nothing holds, each at its middle; a piece falls out, but does not keep the others from going in."""
    held = {rib.plane for rib in ribs if rib.slots}
    found = []
    for rib in (rib for rib in ribs if not rib.slots):
        said = f"Nothing holds {rib.name}: it crosses no other rib."
        found.append(Trouble(said, (rib.name,), _middle(rib, rib.area), stops=rib.plane not in held))
    return found


def in_pieces(ribs: Iterable[Rib]) -> list[Trouble]:
    """The ribs that fall to pieces, with the middle of each smaller piece."""
    found = []
    for rib in (rib for rib in ribs if rib.pieces > 1):
        _, *smaller = sorted(shapely.get_parts(rib.area), key=lambda part: -part.area)
        said = f"{rib.name} falls into {rib.pieces} pieces."
        found.append(Trouble(said, (rib.name,), np.vstack([_middle(rib, part) for part in smaller])))
    return found


def _middle(rib: Rib, part: shapely.Geometry) -> Array:
    """A point (1, 3) within a part of a plate."""
    place = part.representative_point()
    return rib.frame.space(np.array([[place.x, place.y]]))


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


def _mended_words(ribs: Collection[Rib]) -> list[str]:
    """A sentence for each way in which sections were mended."""
    said = []
    for mended in dict.fromkeys(rib.mended for rib in ribs if rib.mended):
        names = list(dict.fromkeys(rib.plane for rib in ribs if rib.mended == mended))
        said.append(f"{listed(names)}: {mended}.")
    return said
