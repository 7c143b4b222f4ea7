"""Interlocking ribs: plates in two directions, slotted into each other."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import shapely

from ..errors import CannotBeDone, Refused
from ..form.curves import Array
from ..form.form import Form
from ..progress import SILENT, Progress
from .outlines import Cutter, PlateFrame
from .planes import Family, upright

LOW = 2.0
"""A crossing lower than so many thicknesses gives slots that hold poorly."""
BEYOND = 3.0
"""A slot runs out of the plate by so many of its widths, at the most."""


@dataclass(frozen=True)
class Slot:
    """``at`` (2,) is the middle of its inner end on the plate; it ``opens`` up or down and is ``depth`` deep."""

    other: str
    at: Array
    width: float
    depth: float
    opens: str


@dataclass(frozen=True)
class Rib:
    """One plate: ``area`` in its own plane, slots cut out."""

    name: str
    frame: PlateFrame
    area: shapely.Geometry
    slots: tuple[Slot, ...]
    mended: str = ""

    @property
    def pieces(self) -> int:
        return len(shapely.get_parts(self.area))


@dataclass(frozen=True)
class Ribs:
    """All plates, in the order in which they are put together, and what hangs together.

    ``sound`` where nothing was left out, and no crossing holds poorly.
    """

    ribs: tuple[Rib, ...]
    thickness: float
    possible: bool
    groups: tuple[tuple[str, ...], ...]
    reasons: tuple[str, ...]
    messages: tuple[str, ...]
    sound: bool = True


def slot_width(thickness: float, fit: float, first: Array, second: Array) -> float:
    """How wide a slot is for a plate that stands at an angle: wide enough for both of its faces' corners."""
    cosine = abs(float(first @ second))
    return thickness * (1 + cosine) / float(np.sqrt(1 - cosine**2)) + fit


def interlocking(
    form: Form,
    first: Family,
    second: Family,
    thickness: float,
    fit: float = 0.0,
    outline: str = "middle",
    halves: str = "up",
    progress: Progress = SILENT,
    floor: float | None = None,
    band: float = 0.0,
) -> Ribs:
    """The ribs of two families. Slots of the first family open to ``halves``, up or down.

    Ribs of an open form reach down to ``floor``, or are a band of that height.

    Raises Refused for families that stand the same way, CannotBeDone where no two ribs cross.
    """
    up = upright(first, second)
    width = slot_width(thickness, fit, first.normal, second.normal)
    if width <= 0:
        raise Refused(f"A fit of {fit:g} mm leaves slots without width; take a larger one.")
    cutter = Cutter(form, floor, band)
    planes = [(family, k, float(at)) for family in (first, second) for k, at in enumerate(family.at, 1)]
    made: dict[str, Rib] = {}
    messages = []
    for done, (family, k, at) in enumerate(planes):
        progress.step(0.8 * done / len(planes), "cutting sections")
        along = np.cross(up, family.normal) if family is first else np.cross(family.normal, up)
        frame = PlateFrame(family.normal, along / np.linalg.norm(along), up, at)
        found = cutter.outline(frame, thickness, outline)
        name = f"{family.letter}{k}"
        if found.area.is_empty:
            messages.append(f"{name} at {at:.4g} mm meets nothing that closes, so it is left out.")
            continue
        made[name] = Rib(name, frame, found.area, (), found.mended)
    missing = bool(messages)
    messages.extend(_mended_words(list(made.values())))
    progress.step(0.85, "cutting slots")
    slotted, said, twice, met = _slotted(made, first, second, width, thickness, halves)
    if not met:
        raise CannotBeDone("No rib crosses another, so nothing holds together; space them nearer to each other.")
    groups = _groups(list(slotted), met)
    alone = [name for group in groups if len(group) == 1 for name in group]
    reasons = [f"{a} and {b} cross more than once, so they cannot be slid into each other." for a, b in twice]
    reasons += [f"Nothing holds {name}: it crosses no other rib." for name in alone]
    reasons += [f"{rib.name} falls into {rib.pieces} pieces." for rib in slotted.values() if rib.pieces > 1]
    return Ribs(
        tuple(slotted.values()),
        thickness,
        not twice and not alone,
        groups,
        tuple(reasons),
        (*messages, *said, *reasons),
        not (missing or said or reasons),
    )


def _slotted(made: dict[str, Rib], first: Family, second: Family, width: float, thickness: float, halves: str):
    """The ribs with their slots, sentences, pairs that cross more than once, and all that cross."""
    messages: list[str] = []
    twice: list[tuple[str, str]] = []
    met: list[tuple[str, str]] = []
    cuts: dict[str, list[shapely.Geometry]] = {name: [] for name in made}
    slots: dict[str, list[Slot]] = {name: [] for name in made}
    other = "down" if halves == "up" else "up"
    for one in [rib for rib in made.values() if rib.name.startswith(first.letter)]:
        for two in [rib for rib in made.values() if rib.name.startswith(second.letter)]:
            foot = _crossing(one.frame, two.frame)
            shared = _shared(one, two, foot)
            if not shared:
                continue
            met.append((one.name, two.name))
            if len(shared) > 1:
                twice.append((one.name, two.name))
            for low, high in shared:
                if high - low < LOW * thickness:
                    messages.append(
                        f"{one.name} and {two.name} cross over {high - low:.3g} mm only; "
                        "their slots hold poorly: shift the first rib, or leave one out."
                    )
                for rib, mate, opens in ((one, two, halves), (two, one, other)):
                    middle = np.array([foot @ rib.frame.along, (low + high) / 2])
                    slots[rib.name].append(Slot(mate.name, middle, width, (high - low) / 2, opens))
                    cuts[rib.name].append(_cut(rib, middle, width, low, high, opens))
    ready = {
        name: replace(
            rib,
            area=rib.area.difference(shapely.union_all(np.array(cuts[name]))) if cuts[name] else rib.area,
            slots=tuple(slots[name]),
        )
        for name, rib in made.items()
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


def _crossing(one: PlateFrame, two: PlateFrame) -> Array:
    """The foot (3,) of the line in which two plates cross, at level 0."""
    return np.linalg.solve(np.array([one.normal, two.normal, one.up]), np.array([one.at, two.at, 0.0]))


def _shared(one: Rib, two: Rib, foot: Array) -> list[tuple[float, float]]:
    """From which level to which (mm) both plates are there, along the line in which they cross."""
    spans = [_levels(rib.area, float(foot @ rib.frame.along)) for rib in (one, two)]
    found = []
    for low, high in spans[0]:
        for under, over in spans[1]:
            begin, end = max(low, under), min(high, over)
            if end - begin > 1e-6:
                found.append((begin, end))
    return found


def _levels(area: shapely.Geometry, along: float) -> list[tuple[float, float]]:
    _, bottom, _, top = area.bounds
    line = shapely.LineString([(along, bottom - 1), (along, top + 1)])
    met = [part for part in shapely.get_parts(area.intersection(line)) if part.length > 0]
    return sorted((min(y), max(y)) for y in (shapely.get_coordinates(part)[:, 1] for part in met))


def _cut(rib: Rib, middle: Array, width: float, low: float, high: float, opens: str) -> shapely.Geometry:
    """What a slot takes away: from the middle of the crossing out of the plate, and not into what lies beyond a gap."""
    levels = _levels(rib.area, float(middle[0]))
    if opens == "up":
        gap = min((begin - high for begin, _ in levels if begin > high), default=np.inf)
        return shapely.box(middle[0] - width / 2, middle[1], middle[0] + width / 2, high + min(BEYOND * width, gap / 2))
    gap = min((low - end for _, end in levels if end < low), default=np.inf)
    return shapely.box(middle[0] - width / 2, low - min(BEYOND * width, gap / 2), middle[0] + width / 2, middle[1])


def _groups(names: list[str], met: list[tuple[str, str]]) -> tuple[tuple[str, ...], ...]:
    """What hangs together, in the order of the ribs."""
    group = {name: name for name in names}

    def head(name: str) -> str:
        while group[name] != name:
            name = group[name]
        return name

    for a, b in met:
        group[head(a)] = head(b)
    found: dict[str, list[str]] = {}
    for name in names:
        found.setdefault(head(name), []).append(name)
    return tuple(tuple(members) for members in found.values())
