"""The flat pattern of a sheet part: its outline, and its bend lines with all that a press needs to know."""

from __future__ import annotations

import numpy as np
import shapely

from ..correspondence import Rigid
from ..geometry.curves import Array, Ellipse
from ..plane.contour import Contour
from ..record import record
from .part import Key, Roll, SheetPart, Zone
from .zones import Loop, Step, region, walked_round

NEAR = 1e-7
OUTLINE = 1e-3
"""Curves that are neither lines nor arcs are flattened within this, in mm."""


@record
class BendLine:
    """The middle of a bend on the flat, ``lines`` of (from, to), each (2,), and what is known of it.

    ``angle`` in radians, ``radius`` that of its inside, ``allowance`` and ``length`` in mm; ``walls`` are the zones'
    numbers at both sides; ``up`` tells that it bends towards who looks at the followed side.
    """

    number: int
    lines: tuple[tuple[Array, Array], ...]
    angle: float
    radius: float
    allowance: float
    up: bool
    walls: tuple[int, int]

    @property
    def ends(self) -> tuple[Array, Array]:
        return self.lines[0][0], self.lines[-1][1]

    @property
    def length(self) -> float:
        return float(sum(np.linalg.norm(b - a) for a, b in self.lines))

    @property
    def layer(self) -> str:
        return "BEND_UP" if self.up else "BEND_DOWN"


def outline(part: SheetPart) -> tuple[Loop, ...]:
    """The loops round the flat, outer ones anticlockwise: what all zones together have at their edges."""
    placed: dict[Key, Step] = {}
    for (k, n, i), step in part.steps.items():
        placed[k, n, i] = step.mapped(part.places[k].turn, part.places[k].shift)
    loops = walked_round(placed, part.after, part.twins)
    return tuple(_straightened([placed[key] for key in loop]) for loop in loops)


def _straightened(walk: list[Step]) -> Loop:
    """Straight steps that run on along one line are one."""
    made: list[Step] = []
    for step in walk:
        if made and _one_line(made[-1], step):
            made[-1] = Step.between(made[-1].first, step.last)
        else:
            made.append(step)
    if len(made) > 2 and _one_line(made[-1], made[0]):
        made[0] = Step.between(made[-1].first, made[0].last)
        made.pop()
    return tuple(made)


def _one_line(one: Step, other: Step) -> bool:
    if not (one.straight and other.straight):
        return False
    a, b = one.last - one.first, other.last - other.first
    size = np.linalg.norm(a) * np.linalg.norm(b)
    return bool(abs(a[0] * b[1] - a[1] * b[0]) <= 1e-9 * size and a @ b > 0)


def contour(loop: Loop, layer: str = "CUT", name: str = "") -> Contour:
    """A loop as lines and arcs; other curves are flattened."""
    points: list[Array] = []
    bulges: list[float] = []
    for step in loop:
        if step.straight:
            points.append(step.first)
            bulges.append(0.0)
        elif isinstance(step.curve, Ellipse) and step.curve.kind == "circle":
            turn = np.sign(np.linalg.det(np.stack([step.curve.x_axis, step.curve.y_axis])))
            parts = max(1, int(np.ceil(abs(step.end - step.start) / (np.pi * 0.99))))
            t = np.linspace(step.start, step.end, parts + 1)
            points.extend(step.curve.evaluate(t[:-1]))
            bulges.extend([float(np.tan(turn * (t[1] - t[0]) / 4))] * parts)
        else:
            line = step.points(OUTLINE)[:-1]
            points.extend(line)
            bulges.extend([0.0] * len(line))
    return Contour(np.array(points), np.array(bulges), True, layer, name)


def bend_lines(part: SheetPart) -> tuple[BendLine, ...]:
    """The bends in the order of their numbers."""
    found = []
    for k, zone in enumerate(part.zones):
        if not zone.bend:
            continue
        assert isinstance(zone.roll, Roll)
        walls = [other for joint in part.joints.values() if k in joint.zones for other in joint.zones if other != k]
        first, second = (part.zones[w].wall or -part.zones[w].bend for w in walls[:2])
        lines = tuple(_middle(zone, part.places[k]))
        allowance = zone.angle * zone.roll.neutral
        found.append(BendLine(zone.bend, lines, zone.angle, zone.roll.radius, allowance, zone.roll.up, (first, second)))
    return tuple(sorted(found, key=lambda line: line.number))


def _middle(zone: Zone, place: Rigid) -> list[tuple[Array, Array]]:
    """The middle line of a bend where there is material, on the flat."""
    ys = np.concatenate([step.points()[:, 1] for step in zone.steps])
    xs = np.concatenate([step.points()[:, 0] for step in zone.steps])
    x, low, high = (xs.min() + xs.max()) / 2, ys.min() - 1, ys.max() + 1
    cut = shapely.intersection(region(zone.loops).shape, shapely.LineString([(x, low), (x, high)]))
    spans = sorted((min(line.bounds[1::2]), max(line.bounds[1::2]))
                   for line in shapely.get_parts(cut) if line.length > NEAR)  # fmt: skip
    merged: list[list[float]] = []
    for a, b in spans:
        if merged and a - merged[-1][1] <= NEAR:
            merged[-1][1] = b
        else:
            merged.append([a, b])
    ends = [(np.array([x, a]), np.array([x, b])) for a, b in merged]
    return [tuple(place.apply(np.array(pair))) for pair in ends]


def flat_size(loops: tuple[Loop, ...]) -> tuple[Array, Array]:
    """The lowest and the highest corner (2,) of the flat, arcs at their full width."""
    lows, highs = zip(*(contour(loop).bounds for loop in loops), strict=True)
    return np.min(lows, axis=0), np.max(highs, axis=0)
