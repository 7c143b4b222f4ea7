"""Which bend after which, with which tool: what passes through tools or itself is left for another turn."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import shapely

from ..files.path import Array
from .flat import Bend, Flat, Motion, folded
from .gauge import gauge

MOST_STATES = 4000
"""So many half-bent states are looked at before the search gives up."""
STAGES = (0.35, 0.7, 1.0)
"""A bend is looked at while it is this far made."""
FOOT = 14.0
"""A horned punch is as long as the bend up to here, in mm."""
CLEAR = 0.3
"""What passes within this of a tool, in mm, touches it and does not collide."""
DEEP, HIGH = 80.0, 160.0
"""How far the die and its table reach down, and the punch and its holder up, in mm."""
DIES = (6.0, 8.0, 10.0, 12.0, 16.0, 20.0, 25.0, 32.0, 40.0, 50.0, 63.0, 80.0, 100.0, 125.0, 160.0, 200.0)


@dataclass(frozen=True)
class Punch:
    """A blade by its ``profile``: (height, left, right) from the bend line up, in mm, between straight lines.

    Above its foot it is shorter than the bend by a ``horn`` at each end, in mm, which gives way to flanges there.
    """

    name: str
    profile: tuple[tuple[float, float, float], ...]
    horn: float = 0.0

    def turned(self) -> Punch:
        """The other way round; the same where it looks alike from both sides."""
        profile = tuple((z, -right, -left) for z, left, right in self.profile)
        return self if profile == self.profile else Punch(f"{self.name} turned round", profile, self.horn)


STRAIGHT = ((0, 0, 0), (12, -4, 4), (60, -6, 6), (100, -12, 12), (HIGH, -40, 40))
PUNCHES = (
    Punch("straight punch", STRAIGHT),
    Punch("gooseneck punch", ((0, 0, 0), (8, -2, 4), (25, 6, 20), (60, 12, 30), (90, -4, 30), (HIGH, -40, 40))),
    Punch("horned punch", STRAIGHT, 35.0),
)
"""A small table of tools; a gooseneck gives way to flanges at one side, and is turned round where need be."""
TURNED = tuple(dict.fromkeys(each for tool in PUNCHES for each in (tool, tool.turned())))


@dataclass(frozen=True)
class Step:
    """A bend by its number, with the tool that makes it; or why nothing does.

    ``gauge`` is how far behind the bend line the stops stand, in mm; None where the part has no edge for them.
    """

    bend: int
    tool: str
    angle: float
    collides: bool = False
    reason: str = ""
    gauge: float | None = None


@dataclass(frozen=True)
class Plan:
    """``steps`` in order; where not ``possible`` those that were found, then the bends that cannot be made."""

    steps: tuple[Step, ...]
    possible: bool

    @property
    def order(self) -> list[int]:
        return [step.bend for step in self.steps if not step.collides]


def planned(flat: Flat) -> Plan:
    """An order in which all bends can be made, or the longest that was found and why it ends."""
    search = _Search(flat)
    found = search.run()
    if found is not None:
        return Plan(tuple(found), True)
    best = search.best
    done = frozenset(step.bend for step in best)
    wrong = []
    for bend in flat.bends:
        if bend.number not in done:
            reason = search.tried(bend, done)[1] or "It can be made here, but then another one cannot."
            wrong.append(Step(bend.number, "", float(np.degrees(bend.angle)), True, reason))
    return Plan((*best, *wrong), False)


class _Search:
    def __init__(self, flat: Flat) -> None:
        self.flat = flat
        self.best: list[Step] = []
        self._dead: set[frozenset[int]] = set()
        self._known: dict[tuple[int, frozenset[int]], tuple[str, str]] = {}

    def run(self) -> list[Step] | None:
        return self._on([], frozenset())

    def _on(self, steps: list[Step], done: frozenset[int]) -> list[Step] | None:
        if len(steps) > len(self.best):
            self.best = steps
        if len(done) == len(self.flat.bends):
            return steps
        if done in self._dead or len(self._dead) > MOST_STATES:
            return None
        for bend in sorted(self.flat.bends, key=self._outwards):
            if bend.number in done:
                continue
            tool, reason = self.tried(bend, done)
            if reason:
                continue
            step = Step(bend.number, tool, float(np.degrees(bend.angle)), gauge=gauge(self.flat, bend, done))
            found = self._on([*steps, step], done | {bend.number})
            if found is not None:
                return found
        self._dead.add(done)
        return None

    def _outwards(self, bend: Bend) -> float:
        """Bends with little hanging beyond them come first, as a bender would have it."""
        return min(sum(self.flat.walls[k].area for k in side) for side in self.flat.sides(bend))

    def tried(self, bend: Bend, done: frozenset[int]) -> tuple[str, str]:
        """The tool with which a bend can be made now; or why it cannot."""
        key = (bend.number, done)
        if key not in self._known:
            self._known[key] = self._tried(bend, done)
        return self._known[key]

    def _tried(self, bend: Bend, done: frozenset[int]) -> tuple[str, str]:
        die = die_for(bend)
        if not die:
            return "", f"Its radius of {bend.radius:g} mm is larger than any die makes; roll it, or bend it in steps."
        states = [on_the_die(self.flat, bend, done, stage, self.flat.points) for stage in STAGES]
        after = folded(self.flat, done | {bend.number}, 0)
        crossing = self._crossing(after)
        if crossing is not None:
            return "", f"Wall {crossing[0] + 1} would run into wall {crossing[1] + 1}."
        below = self._below(bend, states, die)
        if below is not None:
            return "", f"Wall {below + 1} would run into the die."
        hit = -1
        for punch in TURNED:
            hit = self._hits(bend, states, punch)
            if hit < 0:
                return f"{punch.name}, die {die:g}", ""
        return "", f"Wall {hit + 1} would run into the punch."

    def _inside(self, bend: Bend, points: Array, horn: float = 0.0) -> np.ndarray:
        """Which points lie between the ends of the tools, which are as long as the bend."""
        half = np.linalg.norm(bend.line[1] - bend.line[0]) / 2
        return np.abs(points[:, 1]) < half - horn - CLEAR

    def _hits(self, bend: Bend, states: list[dict[int, Array]], punch: Punch) -> int:
        """The wall that passes through the punch, or -1."""
        for state in states:
            for k, points in state.items():
                if k in bend.walls:  # they lie against the tools
                    continue
                mine = points[self._inside(bend, points)]
                mine = mine[(mine[:, 2] < FOOT) | self._inside(bend, mine, punch.horn)]
                for (z0, l0, r0), (z1, l1, r1) in pairwise(punch.profile):
                    part = (mine[:, 2] - z0) / (z1 - z0)
                    within = (part >= 0) & (part < 1)
                    low, high = l0 + part * (l1 - l0) + CLEAR, r0 + part * (r1 - r0) - CLEAR
                    if (within & (mine[:, 0] > low) & (mine[:, 0] < high)).any():
                        return k
        return -1

    def _below(self, bend: Bend, states: list[dict[int, Array]], die: float) -> int | None:
        """The wall that passes through the die, or None."""
        for state in states:
            for k, points in state.items():
                if k in bend.walls:
                    continue
                mine = points[self._inside(bend, points)]
                wide = die * 0.8 + 4
                if ((mine[:, 2] < -CLEAR) & (mine[:, 2] > -DEEP) & (np.abs(mine[:, 0]) < wide)).any():
                    return k
        return None

    def _crossing(self, places: dict[int, Motion]) -> tuple[int, int] | None:
        """Two walls that pass through each other: an edge of the one goes through the other's face."""
        joined = {frozenset(bend.walls) for bend in self.flat.bends}
        for i in places:
            for j in places:
                if i != j and frozenset((i, j)) not in joined and self._pierces(i, j, places):
                    return min(i, j), max(i, j)
        return None

    def _pierces(self, i: int, j: int, places: dict[int, Motion]) -> bool:
        ring = shapely.get_coordinates(self.flat.walls[i].exterior)
        (turn, shift), (other, off) = places[i], places[j]
        space = np.column_stack([ring, np.zeros(len(ring))]) @ turn.T + shift
        local = (space - off) @ other
        a, b = local[:-1], local[1:]
        through = (a[:, 2] * b[:, 2] < 0) & (np.minimum(np.abs(a[:, 2]), np.abs(b[:, 2])) > CLEAR)
        if not through.any():
            return False
        a, b = a[through], b[through]
        part = a[:, 2] / (a[:, 2] - b[:, 2])
        at = a[:, :2] + part[:, None] * (b[:, :2] - a[:, :2])
        return bool(shapely.contains_xy(shapely.buffer(self.flat.walls[j], -CLEAR), at).any())


def punch_of(tool: str) -> Punch:
    """The punch of a step, by what the step says of its tool."""
    return next((punch for punch in TURNED if tool.startswith(f"{punch.name},")), PUNCHES[0])


def die_for(bend: Bend) -> float:
    """The opening of the die that makes a bend, in mm; 0 where none does."""
    return next((d for d in DIES if d >= 6 * bend.radius), 0.0)


def on_the_die(flat: Flat, bend: Bend, done: Collection[int], stage: float, of: Sequence[Array]) -> dict[int, Array]:
    """Points (n, 3) of each wall, those of the flat that ``of`` has for it, at a ``stage`` of a bend from 0 to 1.

    The bend line lies along y, its inside upwards, both sides risen alike.
    """
    share = {**dict.fromkeys(done, 1.0), bend.number: stage}
    left, _ = bend.walls
    places = folded(flat, share, left)
    way = 1.0 if bend.up else -1.0
    along, right = np.append(bend.along, 0), np.append(bend.right, 0)
    frame = np.array([right, way * along, [0, 0, way]])  # seen so that the inside of the bend is up
    half = way * bend.angle * stage / 2
    middle = np.append(bend.line.mean(axis=0), 0) - right * bend.takes / 2
    tilt = np.array([[np.cos(half), 0, np.sin(half)], [0, 1, 0], [-np.sin(half), 0, np.cos(half)]])
    if not bend.up:
        tilt = tilt.T
    found = {}
    for k, (turn, shift) in places.items():
        space = np.column_stack([of[k], np.zeros(len(of[k]))]) @ turn.T + shift
        found[k] = (space - middle) @ frame.T @ tilt.T
    low = min(found[w][:, 2].min() for w in bend.walls)
    for points in found.values():
        points[:, 2] -= low
    return found
