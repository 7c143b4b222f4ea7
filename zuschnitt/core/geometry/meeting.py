"""Curves beside edges that meet at a corner: cut where they cross, or joined by an arc round the corner."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from itertools import combinations

import numpy as np
from scipy.interpolate import CubicSpline
from scipy.spatial import cKDTree

from ..record import record
from .curves import Array

STRAIGHT = np.radians(1.0)
"""Edges that turn by less than this where they meet go on in each other."""
FAN = np.radians(4.0)
"""An arc round a corner has a point every so many radians."""
NEWTON = 30


@record
class Side:
    """A run of an edge, ``points`` (n, 3), and the curve beside it, as far as it lies on the faces.

    ``aside`` (n, 3) are unit directions square to the edge along the surface, towards the curve; ``faces`` those on
    which it runs. ``lost`` tells whether some of it is off the faces: at its begin, between, at its end.
    """

    points: Array
    aside: Array
    faces: tuple[int, ...]
    beside: tuple[Array, ...]
    lost: tuple[bool, bool, bool]

    @property
    def turned(self) -> Side:
        """Walked the other way."""
        runs = tuple(run[::-1] for run in self.beside[::-1])
        return Side(self.points[::-1], self.aside[::-1], self.faces, runs, self.lost[::-1])


@record
class Joined:
    """The ``runs`` (n, 3) of curves; how many corners are ``loose``; whether they are ``whole`` but for those."""

    runs: list[Array]
    loose: int
    whole: bool


def joined_at_corners(
    sides: Sequence[Side], close: float, arc: Callable[[Array, Array, tuple[int, ...]], Array]
) -> Joined:
    """Curves cut where neighbours cross, and joined by an arc where they lie apart.

    Ends within ``close`` mm are one. ``arc`` gives the points (n, 3), on these faces, that lie at the distance from
    a corner (3,) in directions (n, 3).
    """
    made = list(sides)
    arcs: list[Array] = []
    loose = 0
    for i, j in combinations(range(len(made)), 2):
        for a_end in (0, -1):
            for b_end in (0, -1):
                a, b = made[i], made[j]
                if a.faces != b.faces or np.linalg.norm(a.points[a_end] - b.points[b_end]) > close:
                    continue
                from_a, from_b = (side if end == 0 else side.turned for side, end in ((a, a_end), (b, b_end)))
                bend = _bend(from_a, from_b)
                if bend < -STRAIGHT:
                    arcs.append(arc(from_a.points[0], _fan(from_a.aside[0], from_b.aside[0]), a.faces))
                elif bend > STRAIGHT:
                    cut = _cut(from_a, from_b, close)
                    if cut is None:
                        loose += 1
                    else:
                        made[i], made[j] = (
                            side if end == 0 else side.turned for side, end in zip(cut, (a_end, b_end), strict=True)
                        )
    runs = [run for side in made for run in side.beside] + [run for run in arcs if len(run) > 1]
    return Joined(runs, loose, not any(any(side.lost) for side in made))


def _bend(a: Side, b: Side) -> float:
    """By what angle one edge turns towards the curve of the other where they meet; below 0 away from it."""
    came, goes = a.points[0] - a.points[1], b.points[1] - b.points[0]
    lean = float(goes @ a.aside[0]) / np.linalg.norm(goes)
    angle = np.arccos(np.clip(came @ goes / np.linalg.norm(came) / np.linalg.norm(goes), -1, 1))
    return float(angle if lean > 0 else -angle)


def _fan(first: Array, last: Array) -> Array:
    """Unit directions (n, 3) from one to another in even steps; only these where they are opposite."""
    angle = np.arccos(np.clip(first @ last, -1, 1))
    if np.sin(angle) < 1e-9:
        return np.stack([first, last])
    t = np.linspace(0, 1, max(3, int(np.ceil(angle / FAN)) + 1))[:, None]
    return np.asarray((np.sin((1 - t) * angle) * first + np.sin(t * angle) * last) / np.sin(angle))


def _cut(a: Side, b: Side, close: float) -> tuple[Side, Side] | None:
    """Both without what lies before their crossing, seen from the corner at which both begin; None without one."""
    for p, first in enumerate(a.beside):
        for q, second in enumerate(b.beside):
            crossing = _crossing(first, second, close)
            if crossing is not None:
                at, here, there = crossing
                return (
                    replace(a, beside=(_from(at, first, here), *a.beside[p + 1 :]), lost=(False, *a.lost[1:])),
                    replace(b, beside=(_from(at, second, there), *b.beside[q + 1 :]), lost=(False, *b.lost[1:])),
                )
    return None


def _from(at: Array, run: Array, length: float) -> Array:
    """A run from the point ``at`` on, which lies ``length`` mm along it."""
    along = _along(run)
    return np.vstack([at, run[along > length + 1e-6 * along[-1]]])


def _along(run: Array) -> Array:
    """How far along a run each of its points is, in mm."""
    return np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(run, axis=0), axis=1))])


def _crossing(a: Array, b: Array, close: float) -> tuple[Array, float, float] | None:
    """The first crossing along ``a`` of smooth runs on one surface: its point, and how far along both it is."""
    s, t = _along(a), _along(b)
    if len(a) < 2 or len(b) < 2 or s[-1] == 0 or t[-1] == 0:
        return None
    away, nearest = cKDTree(b).query(a)
    reach = np.diff(s).max() + np.diff(t).max()
    padded = np.concatenate([[np.inf], away, [np.inf]])
    valleys = (away <= padded[:-2]) & (away <= padded[2:]) & (away < reach)
    first, second = CubicSpline(s, a), CubicSpline(t, b)
    for k in np.nonzero(valleys)[0]:
        here, there = float(s[k]), float(t[nearest[k]])
        for _ in range(NEWTON):
            gap = first(here) - second(there)
            step = np.linalg.lstsq(np.column_stack([first(here, 1), -second(there, 1)]), -gap, rcond=None)[0]
            here, there = (
                float(np.clip(x + dx, 0, end)) for x, dx, end in zip((here, there), step, (s[-1], t[-1]), strict=True)
            )
            if np.abs(step).max() < 1e-12 * reach:
                break
        if np.linalg.norm(first(here) - second(there)) < close:
            return np.asarray((first(here) + second(there)) / 2), here, there
    return None
