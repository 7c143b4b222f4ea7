"""Zones of a sheet part: regions of its flat, each bounded by lines and curves, with the bends on which they run on."""

from __future__ import annotations

import pickle
from collections.abc import Hashable, Iterable, Mapping, Sequence
from dataclasses import replace
from functools import lru_cache
from typing import TypeVar

import numpy as np

from ..form.area import gauss_rule
from ..geometry.curves import Array, Curve, Ellipse, Line, Spline, parameters_of
from ..plane.arrangement import Cell, Piece, cells
from ..plane.region import Region
from ..record import record

STRAIGHT = 1e-6
"""What is no further from its chord than this, in mm, is straight."""
FLATTENED = 1e-4
"""Boundaries are flattened within this, in mm, where it is asked whether a point lies in a zone."""
KEPT = 256
"""So many zones that were carved last are kept."""


@record
class Step:
    """A part of a zone's boundary: along ``curve`` (in mm, in the zone's plane) from ``start`` to ``end``.

    The material is on the left. ``joint`` is the number of the joint at which the sheet runs on, or None.
    ``edge`` is the number of the edge of the form that it was, or 0.
    """

    curve: Curve
    start: float
    end: float
    joint: int | None = None
    edge: int = 0

    @staticmethod
    def between(first: Array, last: Array, joint: int | None = None, edge: int = 0) -> Step:
        way = np.asarray(last, float) - first
        size = float(np.linalg.norm(way)) or 1.0
        return Step(Line(np.asarray(first, float), way / size), 0.0, size, joint, edge)

    @property
    def first(self) -> Array:
        return self.curve.evaluate(np.array([self.start]))[0]

    @property
    def last(self) -> Array:
        return self.curve.evaluate(np.array([self.end]))[0]

    @property
    def straight(self) -> bool:
        return isinstance(self.curve, Line)

    @property
    def length(self) -> float:
        t, weights = gauss_rule(np.linspace(self.start, self.end, 2 if self.straight else 33))
        return float(np.abs(weights) @ np.linalg.norm(self.curve.derivative(t), axis=1))

    @property
    def spans(self) -> Array:
        """Parameters from its start to its end, between which its curve is smooth: for rules of integration."""
        spans = np.linspace(self.start, self.end, 2 if self.straight else 17)
        if isinstance(self.curve, Spline):
            low, high = sorted((self.start, self.end))
            inner = self.curve.breaks
            spans = np.unique(np.r_[spans, inner[(inner > low) & (inner < high)]])
            spans = spans if self.start < self.end else spans[::-1]
        return spans

    def straightened(self) -> Step:
        """The same along a line, over the same parameter, where it is straight: lines may be written as splines."""
        if self.straight:
            return self
        points = self.curve.evaluate(np.linspace(self.start, self.end, 17))
        chord = points[-1] - points[0]
        size = float(np.linalg.norm(chord))
        aside = np.abs((points - points[0]) @ np.array([-chord[1], chord[0]]))
        if size <= STRAIGHT or aside.max() > STRAIGHT * size:
            return self
        slope = chord / (self.end - self.start)
        return replace(self, curve=Line(points[0] - self.start * slope, slope))

    def points(self, tolerance: float = FLATTENED) -> Array:
        """A polyline (n, 2) within ``tolerance`` mm of it."""
        return self.curve.evaluate(parameters_of(self.curve, self.start, self.end, tolerance))

    def backwards(self) -> Step:
        return replace(self, start=self.end, end=self.start)

    def mapped(self, matrix: Array, shift: Array) -> Step:
        """Under the affine map x -> matrix x + shift. The side of the material follows where it does not mirror."""
        return replace(self, curve=mapped_curve(self.curve, matrix, shift))


Loop = tuple[Step, ...]


def mapped_curve(curve: Curve, matrix: Array, shift: Array) -> Curve:
    """The curve in the plane under the affine map x -> matrix x + shift, over the same parameter."""
    if isinstance(curve, Line):
        return Line(matrix @ curve.origin + shift, matrix @ curve.direction)
    if isinstance(curve, Ellipse):
        return Ellipse(matrix @ curve.centre + shift, matrix @ curve.x_axis, matrix @ curve.y_axis)
    return Spline(curve.knots, curve.control @ matrix.T + shift, curve.degree, curve.weights)


def mapped_loops(loops: Iterable[Loop], matrix: Array, shift: Array) -> tuple[Loop, ...]:
    """Loops under an affine map; one that mirrors has them walked the other way round, the material stays left."""
    made = [tuple(step.mapped(matrix, shift) for step in loop) for loop in loops]
    if np.linalg.det(matrix) < 0:
        made = [backwards(loop) for loop in made]
    return tuple(made)


def backwards(loop: Loop) -> Loop:
    """Walked the other way round."""
    return tuple(step.backwards() for step in reversed(loop))


def area(loops: Iterable[Loop]) -> float:
    """The area inside loops, in mm², by Gauss-Legendre rules."""
    total = 0.0
    for loop in loops:
        for step in loop:
            if isinstance(step.curve, Line):
                (x0, y0), (x1, y1) = (step.curve.origin + t * step.curve.direction for t in (step.start, step.end))
                total += float(x0 * y1 - x1 * y0) / 2
                continue
            t, weights = gauss_rule(step.spans)
            at, slope = step.curve.evaluate(t), step.curve.derivative(t)
            total += float(weights @ (at[:, 0] * slope[:, 1] - at[:, 1] * slope[:, 0])) / 2
    return total


def region(loops: Iterable[Loop], tolerance: float = FLATTENED) -> Region:
    """What lies inside loops, as polygons within ``tolerance`` mm of them."""
    return Region(tuple(np.vstack([step.points(tolerance)[:-1] for step in loop]) for loop in loops))


def polygon(points: Sequence[Array]) -> Loop:
    """The loop of straight steps round ``points``, anticlockwise."""
    corners = [np.asarray(p, float) for p in points]
    loop = tuple(Step.between(a, b) for a, b in zip(corners, (*corners[1:], corners[0]), strict=True))
    return loop if area([loop]) > 0 else backwards(loop)


def disc(centre: Array, radius: float) -> Loop:
    """The loop round a circle, anticlockwise."""
    curve = Ellipse(centre, np.array([radius, 0.0]), np.array([0.0, radius]))
    return (Step(curve, 0.0, np.pi), Step(curve, np.pi, 2 * np.pi))


def carved(loops: tuple[Loop, ...], cutters: Sequence[Loop], added: Sequence[Loop] = ()) -> list[tuple[Loop, ...]]:
    """What is left of a zone, in parts, the largest first: with ``added`` put to it, then without the ``cutters``.

    Cutters and additions run anticlockwise. Of a cutter's boundary, what becomes the zone's keeps its joint.
    """
    if not cutters and not added:
        return [loops]
    return list(_carved(pickle.dumps((loops, tuple(cutters), tuple(added)))))


@lru_cache(maxsize=KEPT)
def _carved(about: bytes) -> tuple[tuple[Loop, ...], ...]:
    """As ``carved``, which says what the pickle holds: while one value of a part moves, most of it stays as it is."""
    loops, cutters, added = pickle.loads(about)
    own = [step for loop in loops for step in loop]
    others = [step for loop in (*cutters, *added) for step in loop]
    steps = own + others
    pieces = [Piece(s.curve, s.start, s.end) for s in steps]
    within, grown = region(loops), [region([loop]) for loop in added]
    away = [region([loop]) for loop in cutters]

    def stays(cell: Cell) -> bool:
        at = cell.inside[None]
        inside = within.contains(at)[0] or any(r.contains(at)[0] for r in grown)
        return bool(inside and not any(r.contains(at)[0] for r in away))

    kept = [cell for cell in cells(pieces, np.ones(2)) if stays(cell)]
    walked = [[[(w.piece, w.start, w.end) for w in loop] for loop in cell.loops] for cell in kept]
    merged = [_joined_parts(group) for group in _hanging_together(walked)]
    made = []
    for loops_of in merged:
        tidy = [_tidied(tuple(replace(steps[k], start=a, end=b) for k, a, b in loop)) for loop in loops_of]
        made.append(tuple(sorted(tidy, key=lambda loop: -area([loop]))))
    return tuple(sorted(made, key=lambda part: -area(part)))


Walked = tuple[int, float, float]


def _hanging_together(walked: list[list[list[Walked]]]) -> list[list[list[list[Walked]]]]:
    """Cells in groups that share a side: two cells on both sides of a piece walk along it in opposite directions."""
    owner: dict[tuple, int] = {}
    root = list(range(len(walked)))

    def find(k: int) -> int:
        while root[k] != k:
            k = root[k]
        return k

    for k, loops in enumerate(walked):
        for loop in loops:
            for piece, a, b in loop:
                other = owner.setdefault((piece, *sorted((a, b))), k)
                root[find(k)] = find(other)
    groups: dict[int, list[list[list[Walked]]]] = {}
    for k, loops in enumerate(walked):
        groups.setdefault(find(k), []).append(loops)
    return list(groups.values())


def _joined_parts(cells_of: list[list[list[Walked]]]) -> list[list[Walked]]:
    """The loops round a group of cells: sides between two of them go."""
    if len(cells_of) == 1:
        return cells_of[0]
    every = [walk for loops in cells_of for loop in loops for walk in loop]
    seen = {(piece, b, a) for piece, a, b in every}
    after: dict[Walked, Walked] = {}
    for loops in cells_of:
        for loop in loops:
            after.update(zip(loop, [*loop[1:], loop[0]], strict=True))
    return walked_round(every, after, {walk: (walk[0], walk[2], walk[1]) for walk in every if walk in seen})


K = TypeVar("K", bound=Hashable)


def walked_round(keys: Iterable[K], after: Mapping[K, K], twin: Mapping[K, K]) -> list[list[K]]:
    """The loops of all that have no twin: each runs on to the one after it; where that has a twin, round behind it."""
    waiting = dict.fromkeys(key for key in keys if key not in twin)
    loops = []
    while waiting:
        key = next(iter(waiting))
        walk = []
        while key in waiting:
            del waiting[key]
            walk.append(key)
            key = after[key]
            while key in twin:
                key = after[twin[key]]
        loops.append(walk)
    return loops


def _tidied(loop: Loop) -> Loop:
    """Steps that run on along the same curve are one."""
    made: list[Step] = []
    for step in loop:
        if made and _runs_on(made[-1], step):
            made[-1] = replace(made[-1], end=step.end)
        else:
            made.append(step)
    if len(made) > 1 and _runs_on(made[-1], made[0]):
        made[0] = replace(made[0], start=made[-1].start)
        made.pop()
    return tuple(made)


def _runs_on(one: Step, other: Step) -> bool:
    return one.curve is other.curve and one.end == other.start and (one.joint, one.edge) == (other.joint, other.edge)
