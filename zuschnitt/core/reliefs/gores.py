"""Cuts that divide a part which closes round an axis into gores: as few as bring it under a chosen stretch."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from itertools import takewhile

import numpy as np

from ..errors import CannotBeDone
from ..form_curves.meridians import Axis, meridians
from ..geometry.curves import Array
from ..progress import Progress
from .proposal import Part, Proposal, largest, stretch_left
from .relief import Relief

SLACK = 0.95
"""The coarse mesh must come under this part of the target; what the fine one shows is seldom more."""
ROUNDS = 3
"""How often one more cut is tried where the fine mesh shows more than the coarse one."""
SHARES = (0.9, 0.85, 0.8, 0.75, 0.7, 0.6)
"""What parts of their length are tried for cuts that need not run through, one after the other while they suffice."""
STRAIGHT = 0.5
"""A seam along an axis turns round it by less than this, in radians."""


def gores(part: Part, target: float, most: int, progress: Progress) -> Proposal:
    """The fewest cuts along meridians under ``target`` percent, not more than ``most``; else those that reach furthest.

    Where they need not run through, so that the blank stays in one piece, they are as short as they may be.
    """
    tries = [_Gores(part, axis, begin, target, progress) for axis, begin in _axes(part)]
    best = min(tries, key=lambda tried: tried.with_most(most)[1])
    found = best.fewest(most)
    progress.step(0.95, "what each gains")
    return found.with_gains(best.gains(found))


def _axes(part: Part) -> list[tuple[Axis, float | None]]:
    """Axes that the part may be divided round, with the angle of a seam along each, where the gores begin."""
    found: list[Axis] = []
    largest_face = max((part.form.face(n) for n in part.unwrapped), key=lambda face: face.area)
    frame = getattr(largest_face.surface, "frame", None)
    if frame is not None and largest_face.kind != "plane":
        found.append(Axis.through(frame.origin, frame.axes[2]))
    ends = _ends(part.seams)
    if not found and len(ends) == 2:
        found.append(Axis.through(ends[0], ends[1] - ends[0]))
    points = np.vstack([part.form.meshes[n - 1].points for n in part.unwrapped])
    if not found:
        middle = points.mean(axis=0)
        found.extend(Axis.through(middle, along) for along in np.linalg.svd(points - middle, full_matrices=False)[2])
    return [(axis, _begin(axis, part.seams)) for axis in found]


def _begin(axis: Axis, seams: Sequence[Array]) -> float | None:
    """The angle of the seam that runs along the axis, if one does."""
    for seam in seams:
        angles = np.unwrap(axis.angles(seam[1:-1]))
        if np.ptp(angles) < STRAIGHT:
            return float(np.median(angles))
    return None


def _ends(seams: Sequence[Array]) -> Array:
    """Points (n, 3) at which a chain of seams ends."""
    ends = np.array([seam[k] for seam in seams for k in (0, -1)]).reshape(-1, 3)
    met = np.linalg.norm(ends[:, None] - ends[None], axis=2) < 1e-3
    return ends[met.sum(axis=1) == 1]


class _Gores:
    """Gores round one axis, tried on the coarse mesh."""

    def __init__(self, part: Part, axis: Axis, begin: float | None, target: float, progress: Progress) -> None:
        self.part, self.axis, self.begin, self.target, self.progress = part, axis, begin, target, progress
        self._worst: dict[int, float] = {}
        self._tried = 0

    def fewest(self, most: int) -> Proposal:
        """The least number of gores that comes under the target on the fine mesh, at most ``most`` cuts."""
        low, (high, reached) = 1, self.with_most(most)
        if reached <= SLACK * self.target:
            while high > low + 1:
                middle = (low + high) // 2
                low, high = (low, middle) if self._coarse(middle) <= SLACK * self.target else (middle, high)
        best = self.part.nothing
        for count in range(high, min(high + ROUNDS, self._gores(most)) + 1):
            cuts = self._cuts(count)
            found = self.part.proposal([Relief.along(cut) for cut in cuts]) if len(cuts) <= most else best
            if found.reached < best.reached:
                best = found
            if best.reached <= self.target:
                return self._shortened(best, cuts)
        return best

    def with_most(self, most: int) -> tuple[int, float]:
        """The largest number of gores that can be had on the coarse mesh, about, and what it reaches there."""
        count = self._gores(most)
        while count > 2 and self._coarse(count) == np.inf:
            count = max(2, 3 * count // 4)
        return count, self._coarse(count)

    def gains(self, found: Proposal) -> list[float]:
        """By how many percent the stretch would be more without each, on the coarse mesh."""
        if not found.reliefs:
            return []
        lines = [relief.points for relief in found.reliefs]
        try:
            sheet = self.part.sheet(lines, self.part.coarse)
        except CannotBeDone:  # they need the fine mesh
            sheet = self.part.sheet(lines)
        keys = np.array(list(sheet.cut))
        line = np.array(list(sheet.cut.values()))
        left = [stretch_left(sheet.whole.points_form, sheet.whole.triangles, keys[line != k])[0].max()
                for k in range(-1, len(found.reliefs))]  # fmt: skip
        return [without - left[0] for without in left[1:]]

    def _gores(self, cuts: int) -> int:
        """How many gores so many cuts make."""
        return cuts if self.begin is None else cuts + 1

    def _cuts(self, count: int) -> list[Array]:
        """The meridians between ``count`` gores; a seam along the axis is one of them."""
        angles = 2 * np.pi * np.arange(count) / count
        if self.begin is not None:
            angles = self.begin + angles[1:]
        faces = self.part.unwrapped.keys()
        return [self._from_seam(c) for angle in angles for c in meridians(self.part.form, self.axis, angle, faces)]

    def _from_seam(self, curve: Array) -> Array:
        """A closed curve begun where it passes a seam."""
        if np.linalg.norm(curve[0] - curve[-1]) > 1e-9 or not self.part.seams:
            return curve
        seams = np.vstack(self.part.seams)
        gaps = np.linalg.norm(curve[:-1, None] - seams[None], axis=2).min(axis=1)
        first = int(gaps.argmin())
        return np.vstack([curve[first:-1], curve[: first + 1]])

    def _coarse(self, count: int) -> float:
        if count not in self._worst:
            cuts = self._cuts(count)
            self._worst[count] = self._measured(cuts) if cuts else self.part.uncut
        return self._worst[count]

    def _measured(self, lines: Sequence[Array], whole: bool = False) -> float:
        """The largest stretch with these cuts; infinite where they cannot be had, or not in one piece if ``whole``."""
        self._tried += 1
        self.progress.step(0.9 - 0.9 / (1 + 0.1 * self._tried), "trying gores")
        try:
            sheet = self.part.sheet(lines, self.part.coarse)
        except CannotBeDone:
            return np.inf
        return np.inf if whole and len(sheet.members) > 1 else largest(sheet.mesh.stretch)

    def _shortened(self, best: Proposal, cuts: Sequence[Array]) -> Proposal:
        """With all cuts ended before a pole, so that the gores hang together round it, where that is still enough."""
        shortest, least = best, 1.0
        for ways in (cuts, [cut[::-1] for cut in cuts]):
            if not self._meet([cut[-1] for cut in ways]):
                continue
            shares = [share for share in SHARES if share < least]
            enough = list(takewhile(partial(self._hangs_together, ways), shares))
            if enough:
                found = self.part.proposal([Relief.along(_begun(cut, enough[-1])) for cut in ways])
                if found.reliefs and found.reached <= self.target and found.length < shortest.length:
                    shortest, least = found, enough[-1]
        return shortest

    def _meet(self, ends: Sequence[Array]) -> bool:
        """Whether points (3,) are all one, on the axis."""
        return float(np.ptp(ends, axis=0).max()) < 1e-3 * self.part.form.size

    def _hangs_together(self, cuts: Sequence[Array], share: float) -> bool:
        """Whether the first parts of the cuts suffice, and leave the blank in one piece."""
        return self._measured([_begun(cut, share) for cut in cuts], whole=True) <= SLACK * self.target


def _begun(points: Array, share: float) -> Array:
    """The first part of a curve, by its length."""
    lengths = np.r_[0, np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))]
    end = share * lengths[-1]
    last = np.array([[np.interp(end, lengths, points[:, k]) for k in range(3)]])
    return np.vstack([points[lengths < end], last])
