"""Sections of a form by half-planes round an axis: meridians of what is turned, and of what is only nearly so."""

from __future__ import annotations

from collections.abc import Collection

import numpy as np

from ..form.form import Form
from ..geometry.curves import Array
from ..record import record
from .sections import section


@record
class Axis:
    """A line through ``point`` (3,) along the unit vectors ``along``; angles count from ``zero``, square to it."""

    point: Array
    along: Array
    zero: Array

    @classmethod
    def through(cls, point: Array, along: Array) -> Axis:
        """An axis of any length of ``along`` (3,); where its angles begin does not matter."""
        along = np.asarray(along, float) / np.linalg.norm(along)
        aside = np.eye(3)[int(np.abs(along).argmin())]
        zero = np.cross(along, aside)
        return cls(np.asarray(point, float), along, zero / np.linalg.norm(zero))

    def outwards(self, angle: float) -> Array:
        """The unit vector (3,) from the axis at an angle in radians."""
        return np.cos(angle) * self.zero + np.sin(angle) * np.cross(self.along, self.zero)

    def angles(self, points: Array) -> Array:
        """Those (n,) of points (n, 3), in radians."""
        off = points - self.point
        return np.arctan2(off @ np.cross(self.along, self.zero), off @ self.zero)


def meridians(form: Form, axis: Axis, angle: float, faces: Collection[int]) -> list[Array]:
    """The curves (n, 3) in which the half-plane at ``angle`` cuts the faces, the longest first.

    They lead along the axis, and end on it where they reach it; one that does not may come back to itself.
    """
    outwards = axis.outwards(angle)
    normal = np.cross(axis.along, outwards)
    found: list[Array] = []
    for curve in section(form, normal, float(normal @ axis.point), faces):
        found.extend(_outer_parts(curve, (curve - axis.point) @ outwards))
    found = [curve if (curve[-1] - curve[0]) @ axis.along >= 0 else curve[::-1] for curve in found]
    return sorted(found, key=lambda curve: -float(np.linalg.norm(np.diff(curve, axis=0), axis=1).sum()))


def _outer_parts(curve: Array, out: Array) -> list[Array]:
    """The parts of a curve (n, 3) where ``out`` (n,) is positive; where it changes its sign they end on the axis."""
    near = np.abs(out) < 1e-9 * np.abs(out).max()
    out = np.where(near, 0.0, out)
    inner = np.nonzero(out <= 0)[0]
    if not len(inner):
        return [curve]
    if np.linalg.norm(curve[0] - curve[-1]) < 1e-9:  # begin a closed curve inside, so that no part is split
        curve, out = (np.concatenate([v[inner[0] : -1], v[: inner[0] + 1]]) for v in (curve, out))
    parts: list[list[Array]] = []
    open_part = False
    for k in range(len(curve)):
        if out[k] > 0:
            if not open_part:
                parts.append([] if k == 0 else [_crossing(curve, out, k - 1)])
                open_part = True
            parts[-1].append(curve[k])
        elif open_part:
            parts[-1].append(_crossing(curve, out, k - 1))
            open_part = False
    return [np.array(part) for part in parts if len(part) > 2]


def _crossing(curve: Array, out: Array, k: int) -> Array:
    """Where the curve between points ``k`` and ``k`` + 1 passes the axis."""
    share = out[k] / (out[k] - out[k + 1])
    return curve[k] + share * (curve[k + 1] - curve[k])
