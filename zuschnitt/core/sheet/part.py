"""A sheet part: zones that run on into each other at joints, flat first.

Each zone has its region in a plane of its own, x and y in mm, seen from the followed side. Walls are flat; a rolled
zone is bent about a line along y. Laid together at the joints the regions are the flat pattern; with every rolled zone
rolled up they are the folded body. Both come from the same numbers.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import field, replace
from functools import cached_property
from itertools import pairwise

import numpy as np

from ..correspondence import Rigid
from ..errors import CannotBeDone, Refused
from ..geometry.curves import Array
from ..geometry.surfaces import TURN, Frame
from ..lazy import Lazy
from ..record import record
from .cone_roll import ConeRoll
from .zones import Loop, Step, area

Key = tuple[int, int, int]
"""A step by the place of its zone, of its loop in that, and its own in the loop."""
SAME = 1e-6
"""Places on a joint nearer to each other than this, in mm, are one."""


@record
class Roll:
    """How a zone is bent about lines along its y.

    ``radius`` is the inside radius in mm, ``neutral`` how many mm of the flat turn by one radian; ``up`` tells that it
    turns towards the followed side, which is then the inside of the bend. ``rolled`` tells that it stays a rolled wall
    where it could be a bend.
    """

    radius: float
    neutral: float
    up: bool
    rolled: bool = False

    def skin(self, height: float, thickness: float) -> float:
        """The radius of what lies ``height`` mm above the followed side."""
        return self.radius - height if self.up else self.radius + thickness + height

    def staged(self, stage: float) -> Roll:
        """At a stage between flat and folded: the same length turns by less, so the radius is larger."""
        neutral = self.neutral / stage
        return replace(self, radius=neutral - (self.neutral - self.radius), neutral=neutral)


@record
class Zone:
    """A wall, or with a ``roll`` a bend or a rolled wall. ``loops`` go round it, the outer one first.

    ``faces`` are the numbers of the form's faces that it was. ``bend`` is its number among the bends, ``wall`` that
    among the walls, from 1; one of them is 0. ``angle`` is that of a bend, in radians; ``share`` is how far it is
    folded, from 0 to 1, when the part is. ``flange`` is, for a wall of one, the place of the flange among those that
    were asked for, and that of the wall among those of the flange.
    """

    loops: tuple[Loop, ...]
    roll: Roll | ConeRoll | None = None
    faces: tuple[int, ...] = ()
    bend: int = 0
    wall: int = 0
    angle: float = 0.0
    share: float = 1.0
    flange: tuple[int, int] | None = None

    @property
    def steps(self) -> tuple[Step, ...]:
        return tuple(step for loop in self.loops for step in loop)

    @property
    def name(self) -> str:
        return f"wall {self.wall}" if self.wall else f"bend {self.bend}"

    @cached_property
    def area(self) -> float:
        return area(self.loops)

    def beside(self, step: Step) -> tuple[Step, Step]:
        """The steps before and after one of its own in their loop."""
        loop, k = next((loop, k) for loop in self.loops for k, each in enumerate(loop) if each is step)
        return loop[k - 1], loop[(k + 1) % len(loop)]

    def joined(self, edges: Iterable[int], joint: int) -> Zone:
        """With a joint at its steps along edges, by their numbers."""
        mine = set(edges)
        loops = tuple(tuple(replace(s, joint=joint) if s.edge in mine else s for s in loop) for loop in self.loops)
        return replace(self, loops=loops)


@record
class Joint:
    """A line on which two zones run on into each other.

    ``zones`` are their places in the part. ``points`` (2, 2) is one point of the line as each has it, ``alongs`` (2, 2)
    the unit direction in which each walks there, the material on its left: they run against each other.
    """

    zones: tuple[int, int]
    points: Array
    alongs: Array

    def line(self, zone: int) -> tuple[Array, Array]:
        side = self.zones.index(zone)
        return self.points[side], self.alongs[side]

    def other(self, zone: int) -> int:
        """The zone at the other side."""
        return self.zones[1 - self.zones.index(zone)]

    def place(self, zone: int, point: Array) -> float:
        """Where on the line a point of a zone is, in mm, as the first zone walks."""
        at, along = self.line(zone)
        return float((point - at) @ along) * (1 if zone == self.zones[0] else -1)

    def in_order(self, zone: int, steps: Sequence[Step]) -> tuple[Step, ...]:
        """Steps of a zone along it, in the order in which they are walked."""
        _, along = self.line(zone)
        return tuple(sorted(steps, key=lambda step: float(step.first @ along)))


@record
class SheetPart(Lazy):
    """``zones`` that hang together at ``joints``, by their numbers, as a tree. ``thickness`` in mm.

    ``stays`` is the zone that stays where it is: on the flat at ``root``, in space with its plane at ``frame``
    (x, y, and z out of the followed side).
    """

    zones: tuple[Zone, ...]
    joints: Mapping[int, Joint]
    thickness: float
    stays: int = 0
    root: Rigid = field(default_factory=lambda: Rigid(np.eye(2), np.zeros(2)))
    frame: Frame = field(default_factory=lambda: Frame(np.zeros(3), np.eye(3)))

    @cached_property
    def steps_at(self) -> Mapping[tuple[int, int], tuple[Step, ...]]:
        """The steps of a zone along a joint, by (joint, zone), in the order in which the zone walks them."""
        found: dict[tuple[int, int], list[Step]] = {}
        for k, zone in enumerate(self.zones):
            for step in zone.steps:
                if step.joint is not None and step.joint in self.joints and k in self.joints[step.joint].zones:
                    found.setdefault((step.joint, k), []).append(step)
        return {(j, k): self.joints[j].in_order(k, steps) for (j, k), steps in found.items()}

    @cached_property
    def steps(self) -> Mapping[Key, Step]:
        """All steps by (zone, loop, place in the loop)."""
        return {
            (k, n, i): step
            for k, zone in enumerate(self.zones)
            for n, loop in enumerate(zone.loops)
            for i, step in enumerate(loop)
        }

    @cached_property
    def after(self) -> Mapping[Key, Key]:
        """The step that follows each one in its loop."""
        return {(k, n, i): (k, n, (i + 1) % len(self.zones[k].loops[n])) for k, n, i in self.steps}

    @cached_property
    def twins(self) -> Mapping[Key, Key]:
        """For each step at a joint the one of the other zone that is the same line."""
        sides: dict[int, dict[int, list[tuple[float, Key]]]] = {}
        for key, step in self.steps.items():
            if step.joint is not None:
                joint = self.joints[step.joint]
                at = (joint.place(key[0], step.first) + joint.place(key[0], step.last)) / 2
                sides.setdefault(step.joint, {}).setdefault(key[0], []).append((at, key))
        found: dict[Key, Key] = {}
        for pair in sides.values():
            one, other = (sorted(side) for side in pair.values())
            for (_, a), (_, b) in zip(one, other, strict=True):
                found[a], found[b] = b, a
        return found

    @cached_property
    def order(self) -> tuple[tuple[int, int, int], ...]:
        """(joint, from zone, to zone): the tree from the zone that stays."""
        beside: dict[int, list[tuple[int, int]]] = {}
        for number, joint in self.joints.items():
            for here, other in (joint.zones, joint.zones[::-1]):
                beside.setdefault(here, []).append((number, other))
        found, reached, waiting = [], {self.stays}, [self.stays]
        while waiting:
            here = waiting.pop(0)
            for number, other in beside.get(here, []):
                if other not in reached:
                    reached.add(other)
                    waiting.append(other)
                    found.append((number, here, other))
        return tuple(found)

    @cached_property
    def places(self) -> tuple[Rigid, ...]:
        """Where each zone lies on the flat."""
        found: dict[int, Rigid] = {self.stays: self.root}
        for number, here, other in self.order:
            (p, along), (q, against) = (self.joints[number].line(zone) for zone in (here, other))
            turn = np.outer(-along, against) + np.outer(-_left(along), _left(against))
            local = Rigid(turn, p - turn @ q)
            found[other] = found[here].after(local)
        return tuple(found[k] for k in range(len(self.zones)))

    def frames(self, stage: float = 1.0) -> tuple[Frame, ...]:
        """Where each zone's own frame stands in space, folded to a ``stage`` from 0, flat, to 1.

        A rolled zone stands with its line x = 0, rolled up from there.
        """
        found: dict[int, Frame] = {self.stays: self.frame}
        for number, here, other in self.order:
            a, b = (self._tangent(self.joints[number], zone, stage) for zone in (here, other))
            # b's frame as it is, so that its line lies on a's: x out of the zone, y along, z out of the sheet
            world = Frame(found[here].world(a.origin[None])[0], found[here].directions(a.axes))
            meet = Frame(world.origin, np.array([-world.axes[0], -world.axes[1], world.axes[2]]))
            axes = b.axes.T @ meet.axes
            found[other] = Frame(meet.origin - b.origin @ axes, axes)
        return tuple(found[k] for k in range(len(self.zones)))

    def _tangent(self, joint: Joint, zone: int, stage: float) -> Frame:
        """The frame on a joint as a zone has it, in the zone's own space: x out of the zone, y along, z up."""
        point, along = joint.line(zone)
        out = -_left(along)
        at, x, y, z = self.surface(zone, point[None], stage)
        tangent = np.stack([x[0], y[0]])
        return Frame(at[0], np.array([out @ tangent, along @ tangent, z[0]]))

    def rolled(self, zone: int, stage: float) -> Roll | ConeRoll | None:
        """How a zone is bent when the part is folded to a stage; None where it is flat then."""
        roll, share = self.zones[zone].roll, stage * self.zones[zone].share
        if roll is None or share <= 0:
            return None
        return roll.staged(share)

    def surface(self, zone: int, xy: Array, stage: float = 1.0, height: float = 0.0):
        """Points (n, 3) of a zone in its own space at a height above the followed side, with the directions x, y, z.

        ``xy`` (n, 2) in the zone's plane. Directions (n, 3) are unit vectors.
        """
        roll = self.rolled(zone, stage)
        n = len(xy)
        if roll is None:
            at = np.column_stack([xy, np.full(n, height)])
            return at, *(np.broadcast_to(axis, (n, 3)) for axis in np.eye(3))
        if isinstance(roll, ConeRoll):
            return roll.surface(xy, height)
        angle = xy[:, 0] / roll.neutral
        sine, cosine, zero = np.sin(angle), np.cos(angle), np.zeros(n)
        way = 1.0 if roll.up else -1.0
        own, first = roll.skin(height, self.thickness), roll.skin(0.0, self.thickness)
        at = np.column_stack([own * sine, xy[:, 1], way * (first - own * cosine)])
        x = np.column_stack([cosine, zero, way * sine])
        z = np.column_stack([-way * sine, zero, cosine])
        return at, x, np.broadcast_to([0.0, 1.0, 0.0], (n, 3)), z

    def laid(self, zone: int, points: Array, stage: float = 1.0) -> Array:
        """Points (n, 3) of the followed side in a zone's own space as points (n, 2) of its plane."""
        roll = self.rolled(zone, stage)
        if roll is None:
            return points[:, :2]
        loops = self.zones[zone].loops  # which of all turns is meant, the middle of the zone says
        if isinstance(roll, ConeRoll):
            u, v = roll.skin(Frame(np.zeros(3), np.eye(3)), 0.0).project(points).T
            return roll.flat(np.column_stack([u + TURN * np.round((np.mean(roll.around(loops)) - u) / TURN), v]))
        x = np.concatenate([step.points()[:, 0] for step in loops[0]])
        first = roll.skin(0.0, self.thickness)
        angle = np.arctan2(points[:, 0], first - (points[:, 2] if roll.up else -points[:, 2]))
        angle += TURN * np.round(((x.min() + x.max()) / 2 / roll.neutral - angle) / TURN)
        return np.column_stack([angle * roll.neutral, points[:, 1]])

    @property
    def flat_area(self) -> float:
        return float(sum(zone.area for zone in self.zones))

    @property
    def volume(self) -> float:
        """Of the folded part, in mm³."""
        return self.volume_at(1.0)

    def volume_at(self, stage: float) -> float:
        """Of the part folded to a stage, in mm³: walls are as thick as the sheet, rolled zones parts of rings."""
        total = 0.0
        for k, zone in enumerate(self.zones):
            roll = self.rolled(k, stage)
            if isinstance(roll, ConeRoll):
                total += self.thickness * roll.layer(zone.loops, -self.thickness / 2)
                continue
            ratio = 1.0 if roll is None else (roll.radius + self.thickness / 2) / roll.neutral
            total += zone.area * self.thickness * ratio
        return total


def folded_apart(part: SheetPart, shares: Mapping[int, float]) -> SheetPart:
    """The part with some of its bends, by their numbers, folded only so far, from 0 to 1, when the whole is.

    Raises Refused for a bend that is not there.
    """
    known = {zone.bend for zone in part.zones if zone.bend}
    missing = [number for number in shares if number not in known]
    if missing:
        raise Refused(f"There is no bend {missing[0]}; the part has bends 1 to {max(known, default=0)}.")
    zones = (replace(zone, share=shares.get(zone.bend, 1.0)) if zone.bend else zone for zone in part.zones)
    return replace(part, zones=tuple(zones))


def _left(direction: Array) -> Array:
    return np.array([-direction[1], direction[0]])


def matched(part: SheetPart) -> SheetPart:
    """With the same steps on both sides of each joint: where only one side reaches, it ends free.

    Raises CannotBeDone where two zones do not meet at all.
    """
    shared: dict[int, list[tuple[float, float]]] = {}
    for number, joint in part.joints.items():
        spans = []
        for zone in joint.zones:
            steps = part.steps_at.get((number, zone), ())
            spans.append([sorted((joint.place(zone, s.first), joint.place(zone, s.last))) for s in steps])
        both = [(max(p, r), min(q, s)) for p, q in spans[0] for r, s in spans[1]]
        shared[number] = sorted(span for span in both if span[1] - span[0] > SAME)
        if not shared[number]:
            raise CannotBeDone("Two walls do not meet along the bend between them; open that edge.")
    made: list[Zone] = []
    for k, each in enumerate(part.zones):
        loops: list[Loop] = []
        for loop in each.loops:
            walk: list[Step] = []
            for step in loop:
                if step.joint is None or step.joint not in part.joints or k not in part.joints[step.joint].zones:
                    walk.append(replace(step, joint=None))
                else:
                    walk.extend(_split(step, k, part.joints[step.joint], shared[step.joint]))
            loops.append(tuple(walk))
        made.append(replace(each, loops=tuple(loops)))
    return replace(part, zones=tuple(made))


def _split(step: Step, zone: int, joint: Joint, shared: Sequence[tuple[float, float]]) -> list[Step]:
    """A step along a joint in pieces: what both sides share, on the very places of the line, and what ends free."""
    at, along = joint.line(zone)
    way = 1 if zone == joint.zones[0] else -1
    first, last = joint.place(zone, step.first), joint.place(zone, step.last)
    low, high = sorted((first, last))
    mine = [(max(p, low), min(q, high)) for p, q in shared if min(q, high) - max(p, low) > SAME]
    places = [first]
    for p, q in mine if way > 0 else [(q, p) for p, q in reversed(mine)]:
        places += [p, q]
    places.append(last)
    made = []
    for k, (p, q) in enumerate(pairwise(places)):
        is_shared = k % 2 == 1
        if not is_shared and abs(q - p) <= SAME:
            continue
        made.append(
            Step.between(at + way * p * along, at + way * q * along, step.joint if is_shared else None, step.edge)
        )
    return made
