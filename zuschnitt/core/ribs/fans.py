"""Planes that do not stand side by side: in a fan round an axis, and square to a curve."""

from __future__ import annotations

import numpy as np

from ..errors import Refused
from ..geometry.curves import Array
from ..record import record
from .outlines import PlateFrame
from .planes import MOST, Spread

STEEP = np.sin(np.radians(15))
"""A curve that runs nearer than this to the second family's direction has no ribs square to it that cross those."""


@record
class Fan:
    """Half planes that begin at the axis through ``centre`` (3,) along the unit vector ``axis``, at ``angles``."""

    letter: str
    centre: Array
    axis: Array
    angles: Array
    begins: float

    @property
    def frames(self) -> tuple[PlateFrame, ...]:
        first = _square_to(self.axis)
        second = np.cross(self.axis, first)
        made = []
        for angle in self.angles.tolist():
            out = np.cos(angle) * first + np.sin(angle) * second
            normal = np.cross(self.axis, out)
            begins = float(self.centre @ out) + self.begins
            made.append(PlateFrame(normal, out, self.axis, float(normal @ self.centre), out, begins))
        return tuple(made)


@record
class SquareToCurve:
    """Planes through ``points`` (n, 3) square to the unit ``tangents`` (n, 3), crossing planes square to ``other``."""

    letter: str
    points: Array
    tangents: Array
    other: Array

    @property
    def ways(self) -> Array:
        """The direction (n, 3) along which each of them crosses the other family's planes, all to one side."""
        ways = np.cross(self.tangents, self.other)
        ways /= np.linalg.norm(ways, axis=1)[:, None]
        first = ways[0] if ways[0][np.abs(ways[0]).argmax()] > 0 else -ways[0]
        made = [first]
        for way in ways[1:]:
            made.append(way if way @ made[-1] >= 0 else -way)
        return np.array(made)

    @property
    def frames(self) -> tuple[PlateFrame, ...]:
        return tuple(
            PlateFrame(
                normal, np.cross(way, normal) / np.linalg.norm(np.cross(way, normal)), way, float(normal @ point)
            )
            for point, normal, way in zip(self.points, self.tangents, self.ways, strict=True)
        )


def fan(letter: str, centre: Array, axis: Array, count: int, first: float, thickness: float, fit: float) -> Fan:
    """``count`` half planes evenly round an axis, the first at ``first`` degrees.

    They begin where neighbours no longer run into each other. Raises Refused for fewer than 2, or too many.
    """
    if not 2 <= count <= MOST:
        raise Refused(f"A fan has from 2 to {MOST} ribs; give another number of {letter} ribs.")
    step = 2 * np.pi / count
    begins = (thickness + max(fit, 0.0)) / 2 / np.tan(min(step, np.pi / 2) / 2)
    return Fan(letter, centre, axis / np.linalg.norm(axis), np.radians(first) + step * np.arange(count), float(begins))


def square_to_curve(letter: str, curve: Array, other: Array, spread: Spread, thickness: float) -> SquareToCurve:
    """Planes square to a polyline (n, 3), evenly spread along it or at listed lengths.

    Raises Refused where it has no length, where too few or too many would stand on it, or where it runs along
    ``other``.
    """
    steps = np.linalg.norm(np.diff(curve, axis=0), axis=1)
    reached = np.r_[0.0, np.cumsum(steps)]
    length = float(reached[-1])
    if not length > 0:
        raise Refused(f"The curve of the {letter} ribs has no length; choose another.")
    at = _along(length, spread, thickness, letter)
    points = np.column_stack([np.interp(at, reached, curve[:, k]) for k in range(3)])
    reach = max(1e-3 * length, float(np.median(steps)))
    ahead, behind = np.clip(at + reach, 0, length), np.clip(at - reach, 0, length)
    way = np.column_stack([np.interp(ahead, reached, curve[:, k]) - np.interp(behind, reached, curve[:, k])
                           for k in range(3)])  # fmt: skip
    tangents = way / np.linalg.norm(way, axis=1)[:, None]
    other = np.asarray(other, float) / np.linalg.norm(other)
    if np.linalg.norm(np.cross(tangents, other), axis=1).min() < STEEP:
        raise Refused("The curve runs along the direction of the second family, so ribs square to it cross none of "
                      "those; turn the second family.")  # fmt: skip
    return SquareToCurve(letter, points, tangents, other)


def _along(length: float, spread: Spread, thickness: float, letter: str) -> Array:
    """Lengths along a curve at which planes stand."""
    if spread.listed:
        at = np.sort(np.array(spread.listed, float))
        return at[(at >= 0) & (at <= length)] if ((at >= 0) & (at <= length)).any() else np.array([length / 2])
    spacing, count = spread.spacing, spread.count
    if spacing is None and count is None:
        raise Refused(f"The {letter} ribs have neither a spacing nor a number; give one of them.")
    spacing = length / (count or 1) if spacing is None else spacing
    if not spacing > thickness:
        raise Refused(f"The {letter} ribs are {spacing:.4g} mm apart and {thickness:g} mm thick; space them wider.")
    count = count or int(np.floor(length / spacing + 1e-9))
    start = spread.start if spread.start is not None else (length - spacing * (count - 1)) / 2
    found = np.asarray(start + spacing * np.arange(max(count, 1)), float)
    found = found[(found >= -1e-9) & (found <= length + 1e-9)]
    if not 1 <= len(found) <= MOST:
        raise Refused(f"{len(found):,} {letter} ribs would stand on a curve of {length:.4g} mm; change their spacing.")
    return found


def _square_to(axis: Array) -> Array:
    """A unit vector (3,) square to ``axis``: x where that can be."""
    base = np.eye(3)[0] if abs(axis[0]) < 0.9 else np.eye(3)[1]
    out = base - (base @ axis) * axis
    return out / np.linalg.norm(out)
