"""A transition in sheet: from one rectangle with rounded corners to another, each corner in flats."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..errors import CannotBeDone, Refused
from ..geometry.curves import Array
from ..geometry.surfaces import Frame
from ..record import record
from .allowance import Rule
from .bending import setback, turn_between
from .finishing import OVER, laid_along, numbered, overlap
from .making import Made
from .part import SheetPart, Zone, matched
from .ridges import Ridge, RidgeLine, bent_along
from .stepping import MOST, Stepped
from .zones import carved, disc, polygon

NEAR = 1e-9
"""Points no further apart than this part of the transition's size are one."""
ROOM = 1.1
"""Where flats run together the sheet is cut out so many times as far as their bends lie in each other."""


@record
class Profile:
    """A rectangle ``length`` (x) by ``width`` (y) with corners of a radius, None for as large as goes; all in mm."""

    length: float
    width: float
    corner: float | None = None

    @property
    def largest(self) -> float:
        """The largest radius that its corners can have."""
        return min(self.length, self.width) / 2

    @property
    def radius(self) -> float:
        return self.largest if self.corner is None else self.corner

    def arc(self, k: int, count: int) -> Array:
        """The corners (count + 1, 2) of the flats at the corner k, anticlockwise from the one at the right in front."""
        r = self.radius
        signs = np.array([(1, -1), (1, 1), (-1, 1), (-1, -1)])[k]
        middle = signs * (np.array([self.length, self.width]) / 2 - r)
        angles = np.pi / 2 * (k - 1 + np.linspace(0, 1, count + 1))
        return middle + r * np.stack([np.cos(angles), np.sin(angles)], axis=1)


def stepped_transition(
    lower: Profile,
    upper: Profile,
    height: float,
    offset: Array,
    thickness: float,
    count: int,
    radius: float,
    rule: Rule,
    outside: bool = False,
) -> Made:
    """From a profile at z = 0 to another at ``height``, whose middle stands ``offset`` (2,) off that of the lower one.

    Each corner becomes ``count`` flats with bends of the inside ``radius`` between them; the profiles are those of the
    inside of the sheet, or of its ``outside``. The seam is in the middle of the side in front. Where flats run together
    in a point the sheet is cut out round it. Raises Refused and CannotBeDone.
    """
    _require(lower, upper, height, offset, thickness, count, radius)
    flats = _flats(lower, upper, height, offset, count, outside)
    ridges, deep = [], []
    for k in range(len(flats) - 1):
        turn = turn_between(flats[k].frame.axes[2], flats[k + 1].frame.axes[2])
        inwards = setback(0.0, turn, thickness, not outside)
        lines = []
        for side, flat in enumerate(flats[k : k + 2]):
            low, high = flat.local(np.array(flats[k].right))
            line = RidgeLine(low, (high - low) / np.linalg.norm(high - low))
            lines.append(replace(line, origin=low + (inwards if side else -inwards) * line.across))
        ridges.append(Ridge((k, k + 1), (lines[0], lines[1]), turn))
        deep.append(setback(radius, turn, thickness, not outside))
    cut = _cut_out(flats, deep)
    zones = []
    for flat in flats:
        reached = [disc(flat.local(at[None])[0], size) for at, size in cut if flat.touches(at)]
        parts = carved((polygon(list(flat.local(flat.corners))),), reached)
        if not parts:
            raise CannotBeDone(_TOO_NARROW)
        zones.append(Zone(parts[0]))
    made, joints = bent_along(zones, ridges, radius, not outside, thickness, rule, 0)
    stays = max(range(len(flats)), key=lambda k: (round(made[k].area, 6), -k))
    part = laid_along(numbered(matched(SheetPart(made, joints, thickness, stays=stays, frame=flats[stays].frame))))
    if overlap(part) > OVER:
        raise CannotBeDone("The flat of the transition would lie over itself; take fewer flats, or make it higher.")
    said: tuple[str, ...] = ()
    if cut:
        size = max(size for _, size in cut)
        said = (f"Where flats run together the sheet is cut out round the corner, up to {size:.3g} mm from it.",)
    return Made(part, (0,), (), (), _about(lower, upper, height, offset, count), said)


_TOO_NARROW = (
    "The flats at the corners are too narrow for the bends between them; take fewer flats, a smaller radius of the "
    "bends, or larger corners."
)


def _require(
    lower: Profile, upper: Profile, height: float, offset: Array, thickness: float, count: int, radius: float
) -> None:
    sizes = [lower.length, lower.width, upper.length, upper.width, height, thickness]
    if not (np.isfinite([*sizes, *offset, radius]).all() and min(sizes) > 0 and radius >= 0):
        raise Refused("A transition needs lengths, widths, a height and a thickness above 0; change the numbers.")
    for name, profile in (("lower", lower), ("upper", upper)):
        if not 0 <= profile.radius <= profile.largest * (1 + NEAR):
            raise Refused(
                f"The corners of the {name} profile have a radius from 0 to {profile.largest:g} mm; change it."
            )
    if not 1 <= count <= MOST:
        raise Refused(f"A corner is made in 1 to {MOST} flats; {count} is no such number.")


@record
class _Flat:
    """A flat with its corners (n, 3), and its ``left`` and ``right`` side from below to above, each (2, 3)."""

    corners: Array
    left: Array
    right: Array
    frame: Frame

    def local(self, points: Array) -> Array:
        return self.frame.local(points)[:, :2]

    def touches(self, at: Array) -> bool:
        return bool((np.linalg.norm(self.corners - at, axis=1) < NEAR * np.ptp(self.corners, axis=0).max()).any())


def _flats(lower: Profile, upper: Profile, height: float, offset: Array, count: int, outside: bool) -> list[_Flat]:
    """The flats in a row from the seam, to the right as seen from the side that is followed."""
    below, above = [], []
    for k in range(4):
        below.append(np.column_stack([lower.arc(k, count), np.zeros(count + 1)]))
        above.append(np.column_stack([upper.arc(k, count) + offset, np.full(count + 1, height)]))
    feet, heads = np.vstack(below), np.vstack(above)
    middles = [(points[0] + points[-1]) / 2 for points in (feet, heads)]
    feet = np.vstack([middles[0], feet, middles[0]])
    heads = np.vstack([middles[1], heads, middles[1]])
    if not outside:
        feet, heads = feet[::-1], heads[::-1]
    least = NEAR * max(np.ptp(feet, axis=0).max(), np.ptp(heads, axis=0).max())
    found = []
    for p, q, r, s in zip(feet[:-1], feet[1:], heads[1:], heads[:-1], strict=True):
        wide = [np.linalg.norm(q - p) > least, np.linalg.norm(r - s) > least]
        if not any(wide):
            continue
        x = q - p if wide[0] else r - s
        x = x / np.linalg.norm(x)
        z = np.cross(x, s - p)
        z = z / np.linalg.norm(z)
        corners = np.array([p, *([q] if wide[0] else []), r, *([s] if wide[1] else [])])
        found.append(_Flat(corners, np.array([p, s]), np.array([q, r]), Frame(p, np.array([x, np.cross(z, x), z]))))
    return found


def _cut_out(flats: Sequence[_Flat], deep: Sequence[float]) -> list[tuple[Array, float]]:
    """Points where flats run together, and how far round each the sheet is cut out, in mm.

    Raises CannotBeDone where bends lie in each other without such a point.
    """
    sizes: dict[tuple[float, ...], float] = {}
    for k in range(1, len(flats) - 1):
        flat = flats[k]
        left, right = flat.local(flat.left), flat.local(flat.right)
        ways = [(side[1] - side[0]) / np.linalg.norm(side[1] - side[0]) for side in (left, right)]
        lines = [
            left[0] + deep[k - 1] * np.array([ways[0][1], -ways[0][0]]),
            right[0] - deep[k] * np.array([ways[1][1], -ways[1][0]]),
        ]
        run = np.stack([ways[0], -ways[1]], axis=1)
        if abs(np.linalg.det(run)) < NEAR:
            if (lines[1] - lines[0])[0] <= 0:
                raise CannotBeDone(_TOO_NARROW)
            continue
        meet = lines[0] + np.linalg.solve(run, lines[1] - lines[0])[0] * ways[0]
        high, widths = float(left[1][1]), np.abs(right[:, 0] - left[:, 0])
        if not 0 < meet[1] < high:
            if (meet[1] >= high) != (widths[1] < widths[0]):
                raise CannotBeDone(_TOO_NARROW)
            continue
        end = 0 if widths[0] < widths[1] else 1
        if widths[end] > NEAR * high:
            raise CannotBeDone(_TOO_NARROW)
        away = ROOM * float(np.linalg.norm(meet - left[end]))
        if away > ROOM * 0.5 * high:
            raise CannotBeDone(_TOO_NARROW)
        at = tuple(np.round(flat.left[end], 9))
        sizes[at] = max(sizes.get(at, 0.0), away)
    for at, size in sizes.items():
        for flat in flats:
            others = [p for p in flat.corners if np.linalg.norm(p - at) > NEAR]
            if flat.touches(np.array(at)) and min(np.linalg.norm(p - at) for p in others) <= 2 * size:
                raise CannotBeDone(_TOO_NARROW)
    return [(np.array(at), size) for at, size in sizes.items()]


def _about(lower: Profile, upper: Profile, height: float, offset: Array, count: int) -> tuple[Stepped, ...]:
    """For each corner how wide its flats are at their wide end, with half of their bends, and how far off the arc."""
    found = []
    for k in range(4):
        gap = width = 0.0
        fine = [profile.arc(k, 2 * count)[1::2] for profile in (lower, upper)]
        for i in range(count):
            ends = [profile.arc(k, count)[i : i + 2] for profile in (lower, upper)]
            feet = np.column_stack([ends[0], np.zeros(2)])
            heads = np.column_stack([ends[1] + offset, np.full(2, height)])
            normal = np.cross((feet[1] - feet[0]) + (heads[1] - heads[0]), heads[0] - feet[0])
            size = np.linalg.norm(normal)
            if size == 0:
                continue
            arcs = np.array([[*fine[0][i], 0.0], [*(fine[1][i] + offset), height]])
            gap = max(gap, float(np.abs((arcs - feet[0]) @ (normal / size)).max()))
            width = max(width, *(float(np.linalg.norm(end[1] - end[0])) for end in (feet, heads)))
        if gap > 0:
            found.append(Stepped(count, width, gap))
    return tuple(found)
