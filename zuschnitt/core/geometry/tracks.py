"""A curve in space as panels need it: any number of smooth parts with corners between them."""

from __future__ import annotations

from functools import cached_property
from itertools import pairwise

import numpy as np

from ..errors import Refused
from ..lazy import Lazy
from ..record import record
from .curves import Array

GUIDE_CORNER = np.radians(12)
"""Where successive chords turn by more than this, and by far more than around it, the curve has a corner."""

BLUNT = np.radians(35)
"""Where they turn by this much, it has one in any case."""


@record
class Track(Lazy):
    """Points (n, 3) of a curve in mm, with ``corners`` the indices at which parts meet, ends included.

    Its parameter s runs evenly by arc length from 0 to 1. A closed one ends where it begins.
    """

    points: Array
    corners: tuple[int, ...]
    closed: bool = False

    @cached_property
    def s(self) -> Array:
        steps = np.linalg.norm(np.diff(self.points, axis=0), axis=1)
        total = np.r_[0, np.cumsum(steps)]
        return total / total[-1]

    @cached_property
    def length(self) -> float:
        return float(np.linalg.norm(np.diff(self.points, axis=0), axis=1).sum())

    @cached_property
    def breaks(self) -> Array:
        """Parameters of the corners, ends included."""
        return self.s[list(self.corners)]

    @cached_property
    def _parts(self) -> list:
        from scipy.interpolate import make_interp_spline

        parts = []
        whole = self.closed and len(self.corners) == 2  # closed, without a corner: no break at its start either
        for a, b in pairwise(self.corners):
            s, points = self.s[a : b + 1], self.points[a : b + 1]
            if whole and len(s) > 8:
                around = 6
                s = np.r_[s[-around - 1 : -1] - 1, s, s[1 : around + 1] + 1]
                points = np.vstack([points[-around - 1 : -1], points, points[1 : around + 1]])
            parts.append(make_interp_spline(s, points, min(5, len(s) - 1)))
        return parts

    def at(self, s: Array, part: np.ndarray | None = None) -> Array:
        """Points (n, 3)."""
        return self._each(s, part, 0)

    def tangent(self, s: Array, part: np.ndarray | None = None) -> Array:
        """Unit tangents (n, 3); ``part`` (n,) says which part, where s is at a corner."""
        slope = self._each(s, part, 1)
        return slope / np.maximum(np.linalg.norm(slope, axis=1, keepdims=True), 1e-300)

    def part_of(self, s: Array) -> np.ndarray:
        return np.clip(np.searchsorted(self.breaks, s, "right") - 1, 0, len(self.breaks) - 2)

    def _each(self, s: Array, part: np.ndarray | None, order: int) -> Array:
        s = np.asarray(s, float)
        part = self.part_of(s) if part is None else np.broadcast_to(part, s.shape)
        result = np.zeros((len(s), 3))
        for k in np.unique(part):
            mine = part == k
            result[mine] = self._parts[k](s[mine], nu=order)
        return result

    def reversed(self) -> Track:
        n = len(self.points) - 1
        return Track(self.points[::-1].copy(), tuple(n - c for c in reversed(self.corners)), self.closed)

    def starting_at(self, s: float) -> Track:
        """A closed one, begun at ``s``; a corner that was only its start goes, if it is none."""
        if not self.closed:
            return self
        s = s % 1.0
        nearest = int(np.abs(self.s - s).argmin())
        if abs(self.s[nearest] - s) < 1e-7:
            s = float(self.s[nearest]) % 1.0
        fine = np.unique(np.r_[self.s, s])
        points = self.at(fine)
        inner = self.breaks[1:-1]
        kept = [b for b in inner] + ([0.0] if self.corner_at_start else [])
        moved = np.sort((fine[:-1] - s) % 1.0)
        order = np.argsort((fine[:-1] - s) % 1.0, kind="stable")
        ring = points[:-1][order]
        ring = np.vstack([ring, ring[:1]])
        places = np.r_[moved, 1.0]
        corners = {0, len(ring) - 1} | {int(np.abs(places - (b - s) % 1.0).argmin()) for b in kept}
        return Track(ring, tuple(sorted(corners)), True)

    @cached_property
    def corner_at_start(self) -> bool:
        """Whether a closed one has a corner where it begins."""
        if len(self.corners) == 2:
            return False
        ends = self.tangent(np.array([0.0, 1.0]), np.array([0, len(self.breaks) - 2]))
        return bool(ends[0] @ ends[1] < np.cos(GUIDE_CORNER))


def track(points: Array, closed: bool | None = None, name: str = "The curve") -> Track:
    """A track through ``points`` (n, 3); corners are found where they turn sharply.

    Raises Refused where there is no curve: fewer than two different points, or none of finite size.
    """
    points = np.asarray(points, float)
    if points.ndim != 2 or points.shape[1] != 3 or not np.isfinite(points).all():
        raise Refused(f"{name} has points that are not three finite numbers; check it.")
    size = float(np.linalg.norm(np.ptp(points, axis=0))) if len(points) else 0.0
    if len(points) > 1:
        keep = np.r_[True, np.linalg.norm(np.diff(points, axis=0), axis=1) > 1e-9 * size]
        points = points[keep]
    if len(points) < 2 or size < 1e-9:
        raise Refused(f"{name} is a single point; a panel needs curves that have a length.")
    near = np.linalg.norm(points[0] - points[-1]) < 1e-6 * size
    closed = bool(near) if closed is None else closed
    if closed and not near:
        points = np.vstack([points, points[:1]])
    elif closed:
        points = points.copy()
        points[-1] = points[0]
    return Track(points, _corners(points, closed), closed)


def _corners(points: Array, closed: bool) -> tuple[int, ...]:
    """Ends, and points at which the polyline turns much more than it does next to them."""
    chord = np.diff(points, axis=0)
    chord /= np.maximum(np.linalg.norm(chord, axis=1, keepdims=True), 1e-300)
    before = chord if not closed else np.vstack([chord[-1:], chord])
    turn = np.arccos(np.clip((before[:-1] * before[1:]).sum(axis=1), -1, 1))
    index = np.arange(len(turn)) + (0 if closed else 1)
    around = np.r_[turn[-1:], turn, turn[:1]] if closed else np.r_[0.0, turn, 0.0]
    beside = np.minimum(around[:-2], around[2:])
    sharp = (turn > GUIDE_CORNER) & (turn > 3 * beside) | (turn > BLUNT)
    last = len(points) - 1
    found = sorted({0, last} | set(index[sharp].tolist()))
    return tuple(found)
