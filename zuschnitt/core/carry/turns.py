"""A drawing on the blank of a closed face goes on round the form: it lies on the blank once more for each turn."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np
import shapely

from ..correspondence import STILL, Correspondence, Rigid
from ..geometry.curves import Array
from ..plane.contour import Contour
from ..record import record

FINE = 0.1
"""Contours are flattened to this, in mm, to see how far round they reach."""
MOST_TURNS = 64
STEPS = 200
"""A contour is looked at in steps of this part of the blank's size."""


@record
class Turn:
    """A motion of the drawing, for the ``faces`` and the ``contours`` (their indices) for which it counts."""

    motion: Rigid
    faces: frozenset[int]
    contours: frozenset[int]


def turns(correspondence: Correspondence, contours: Sequence[Contour]) -> tuple[Turn, ...]:
    """The drawing as it is, and each further turn by which some of it comes to lie on the blank.

    Only what leaves the blank goes on round the form, and only from the faces that it is on.
    """
    every = frozenset(leaf.face for leaf in correspondence.leaves)
    found = [Turn(STILL, every, frozenset(range(len(contours))))]
    points = [c.flattened(FINE) for c in contours]
    for motion, angle, faces in correspondence.turns:
        mine = [leaf.rings_blank for leaf in correspondence.leaves if leaf.face in faces]
        round_it = list(_round(motion, angle, faces, mine, points))
        on = _going_on(correspondence, points, faces) if round_it else frozenset()
        for turn in round_it:
            if turn.contours & on:
                found.append(replace(turn, contours=turn.contours & on))
    return tuple(found)


def _going_on(correspondence: Correspondence, contours: Sequence[Array], faces: frozenset[int]) -> frozenset[int]:
    """Which contours go on round these faces: not those that lie on the blank whole, nor those on other faces alone."""
    step = correspondence.size / STEPS
    lines = [shapely.get_coordinates(shapely.segmentize(shapely.LineString(line), step)) for line in contours]
    points = np.vstack(lines)
    own, other = (
        np.any([leaf.blank_to_chart(points)[1] for leaf in chosen] or [np.zeros(len(points), bool)], axis=0)
        for chosen in (
            [leaf for leaf in correspondence.leaves if leaf.face in faces],
            [leaf for leaf in correspondence.leaves if leaf.face not in faces],
        )
    )
    starts = np.cumsum([0, *(len(line) for line in lines[:-1])])
    whole = np.logical_and.reduceat(own | other, starts)
    here, there = np.logical_or.reduceat(own, starts), np.logical_or.reduceat(other, starts)
    return frozenset(np.nonzero(~whole & (here | ~there))[0].tolist())


def _round(
    motion: Rigid, angle: float, faces: frozenset[int], blank: Sequence[Array], contours: Sequence[Array]
) -> Iterator[Turn]:
    """How far each contour reaches along the way round, in turns, says by which of them it is on the blank."""
    if abs(angle) < 1e-9:
        way = motion.shift / (motion.shift @ motion.shift)
        low, high = _extent(np.vstack(blank) @ way)
        reach = [_extent(points @ way) for points in contours]
    else:  # angles round the tip of the cone, from the middle of the blank
        tip = np.linalg.solve(np.eye(2) - motion.turn, motion.shift)
        off = np.vstack(blank) - tip
        off = off[np.linalg.norm(off, axis=1) > FINE]  # at the tip there is no angle
        ahead = off.mean(axis=0)
        low, high = _extent(_angles(off, ahead) / angle)
        reach = []
        for points in contours:
            at = np.unwrap(_angles(points - tip, ahead))
            over = abs(at[-1] - at[0]) > np.pi  # it goes round the tip: there is no telling which turn it is on
            reach.append((np.inf, -np.inf) if over else _extent(at / angle))
    power, inverse = STILL, STILL
    for k in range(1, MOST_TURNS + 1):
        power, inverse = motion.after(power), motion.inverse.after(inverse)
        for turn, moved in ((k, power), (-k, inverse)):
            there = frozenset(i for i, (a, b) in enumerate(reach) if a + turn < high and b + turn > low)
            if there:
                yield Turn(moved, faces, there)


def _angles(off: Array, ahead: Array) -> Array:
    """Angles (n,) of points (n, 2) from the direction ``ahead`` (2,)."""
    return np.arctan2(ahead[0] * off[:, 1] - ahead[1] * off[:, 0], off @ ahead)


def _extent(values: Array) -> tuple[float, float]:
    return float(values.min()), float(values.max())
