"""Round rods through holes, in place of a second family of ribs."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely

from ..errors import CannotBeDone, Refused
from ..form.form import Form
from ..geometry.curves import Array
from ..progress import SILENT, Progress
from ..record import record
from .assembly import groups
from .edge_distance import edge_distance
from .outlines import Cutter, PlateFrame
from .planes import Family
from .rib import Making, Rib
from .ribs import Ribs, bare_ribs, in_pieces
from .trouble import Trouble

LEVELS = 61
"""At so many heights it is tried through how many ribs a rod runs."""
ROUND = 32
SIDES = 6
"""A rod is seen with so many sides for each quarter."""
MOST = 400


@record
class Rod:
    """A bar of ``diameter`` mm from one point (3,) to another."""

    name: str
    start: Array
    end: Array
    diameter: float

    @property
    def length(self) -> float:
        return float(np.linalg.norm(self.end - self.start))

    @property
    def plate(self) -> Rib:
        """The rod as a round plate that is as thick as the rod is long."""
        way = (self.end - self.start) / self.length
        side = np.cross(way, np.eye(3)[np.argmin(np.abs(way))])
        side /= np.linalg.norm(side)
        middle = (self.start + self.end) / 2
        frame = PlateFrame(way, side, np.cross(way, side), float(middle @ way))
        return Rib(self.name, frame, shapely.Point(frame.flat(middle[None])[0]).buffer(self.diameter / 2, SIDES), ())


def on_rods(
    form: Form, ribs: Family, along: Array, spacing: float, diameter: float, how: Making, progress: Progress = SILENT
) -> Ribs:
    """Parallel ribs that are threaded on rods square to them, ``spacing`` apart along the direction ``along`` (3,).

    A rod runs where it passes through the most ribs one after the other, with half its diameter left round it in each.
    Raises Refused for rods that touch each other, CannotBeDone where none runs through two ribs.
    """
    if not spacing > 2 * diameter:
        raise Refused(f"Rods of {diameter:g} mm are {spacing:g} mm apart; space them wider, or take thinner ones.")
    along = along - (along @ ribs.normal) * ribs.normal
    if np.linalg.norm(along) < 1e-6:
        raise Refused("The rods would be spread along themselves; turn the second direction.")
    along = along / np.linalg.norm(along)
    cutter = Cutter(form, how.floor, how.band, how.base)
    frames = ribs.frames(along, np.cross(ribs.normal, along))
    cut, troubles = bare_ribs(cutter, {f"{ribs.letter}{k}": frame for k, frame in enumerate(frames, 1)}, how, progress)
    made = [replace(rib, faceted=False) for rib in cut.values()]  # holes are round
    places = _places([rib.area.buffer(-diameter) for rib in made], spacing)
    if not places:
        raise CannotBeDone("No rod runs through two ribs; take thinner rods, or space the ribs nearer to each other.")
    rods: list[Rod] = []
    met: list[tuple[str, str]] = []
    holes: dict[str, list[shapely.Geometry]] = {rib.name: [] for rib in made}
    for k, (place, first, last) in enumerate(places, 1):
        ends = [made[i].frame.space(place[None], side * how.thickness / 2)[0] for i, side in ((first, -1), (last, 1))]
        rods.append(Rod(f"R{k}", ends[0], ends[1], diameter))
        for rib in made[first : last + 1]:
            holes[rib.name].append(shapely.Point(place).buffer((diameter + how.fit) / 2, ROUND))
            met.append((f"R{k}", rib.name))
    held = {name for _, name in met}
    drilled = tuple(
        replace(rib, area=rib.area.difference(shapely.union_all(np.array(holes[rib.name]))))
        if holes[rib.name] else rib for rib in made
    )  # fmt: skip
    together = groups([rod.name for rod in rods] + [rib.name for rib in made], met)
    troubles += [
        Trouble(f"Nothing holds {rib.name}: no rod runs through it.", (rib.name,))
        for rib in made if rib.name not in held
    ]  # fmt: skip
    troubles += in_pieces(drilled)
    off = edge_distance(cutter.locator, ((rib.frame, rib.area) for rib in made), how.thickness)
    bill = ", ".join(f"{rod.name} {rod.length:.1f}" for rod in rods)
    said = f"The rods of {diameter:g} mm are, in mm: {bill}."
    return Ribs(drilled, how.thickness, together, tuple(troubles), (said,), tuple(rods), off)


def _places(rooms: list[shapely.Geometry], spacing: float) -> list[tuple[Array, int, int]]:
    """Where rods run (2,), and from which rib to which; ``rooms`` is where a rod's middle may be in each."""
    there = [room for room in rooms if not room.is_empty]
    if not there:
        return []
    x0, y0, x1, y1 = shapely.union_all(np.array(there)).bounds
    count = int(np.floor((x1 - x0) / spacing)) + 1
    if count > MOST:
        raise Refused(f"That would be {count:,} rods, more than {MOST}; space them wider.")
    found = []
    heights = np.linspace(y0, y1, LEVELS)
    for x in (x0 + x1) / 2 + spacing * (np.arange(count) - (count - 1) / 2):
        within = np.array([shapely.contains_xy(room, np.full(LEVELS, x), heights) for room in rooms])
        runs = [_longest(column) for column in within.T]
        most = max(last - first for first, last in runs)
        if most < 1:
            continue
        best = [k for k, (first, last) in enumerate(runs) if last - first == most]
        k = best[len(best) // 2]
        found.append((np.array([x, heights[k]]), *runs[k]))
    return found


def _longest(there: Array) -> tuple[int, int]:
    """The first and the last of the longest run of ribs one after the other; (0, -1) where there is none."""
    best, first = (0, -1), None
    for k, one in enumerate([*there.tolist(), False]):
        if one and first is None:
            first = k
        elif not one and first is not None:
            if k - 1 - first > best[1] - best[0]:
                best = first, k - 1
            first = None
    return best
