"""The outline of several faces together, as one closed curve with its corners."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

import numpy as np

from ..errors import Refused
from ..geometry.curves import Array
from ..record import record
from ..wording import coordinates
from .form import Coedge, Face, Form

PLACES = 400
"""Each edge is measured at so many places."""
SHARP = np.radians(20)
"""Where edges of the outline turn by less than this, they run on."""
AT_AN_END = 0.02
"""A corner that is named this near to the end of an edge, as a part of the outline, is that end."""


@record
class _Walk:
    """Along one edge of the outline: parameters ``t`` (n,), how far they are from its beginning, in mm."""

    face: Face
    coedge: Coedge
    t: Array
    far: Array

    @classmethod
    def of(cls, face: Face, coedge: Coedge) -> _Walk:
        ends = (coedge.end, coedge.start) if face.reversed else (coedge.start, coedge.end)
        t = np.linspace(*ends, PLACES)
        points = face.surface.evaluate(coedge.uv(t))
        return cls(face, coedge, t, np.r_[0, np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])

    def at(self, far: Array) -> Array:
        return self.face.surface.evaluate(self.coedge.uv(np.interp(far, self.far, self.t)))


@record
class OuterLoop:
    """Walks one after the other, anticlockwise seen from the outer side, until the first begins again."""

    walks: tuple[_Walk, ...]

    @property
    def starts(self) -> Array:
        """How far each walk begins from the first one's beginning, in mm; at last the whole length."""
        return np.r_[0, np.cumsum([walk.far[-1] for walk in self.walks])]

    @property
    def length(self) -> float:
        return float(self.starts[-1])

    def at(self, far: Array) -> Array:
        """Points (n, 3) so far along, in mm; a turn further is the same."""
        far = np.mod(far, self.length)
        owner = np.clip(np.searchsorted(self.starts, far, "right") - 1, 0, len(self.walks) - 1)
        points = np.empty((len(far), 3))
        for k in np.unique(owner).tolist():
            points[owner == k] = self.walks[k].at(far[owner == k] - self.starts[k])
        return points

    def nearest(self, point: Array) -> float:
        """How far along is what is nearest to a point (3,): an end of an edge where that is about as near."""
        every = np.concatenate([walk.far + start for walk, start in zip(self.walks, self.starts, strict=False)])
        gaps = np.linalg.norm(self.at(every) - point, axis=1)
        found = float(every[gaps.argmin()])
        ends = self.starts[:-1]
        off = np.abs(np.mod(ends - found + self.length / 2, self.length) - self.length / 2)
        return float(ends[off.argmin()]) if off.min() <= AT_AN_END * self.length else found

    def corners(self) -> tuple[Array, list[str]]:
        """The four sharpest ends of edges; where there are three, the middle of the longest side is the fourth.

        Raises Refused where there are fewer.
        """
        turns = self._turns()
        sharp = np.nonzero(turns > SHARP)[0]
        if len(sharp) < 3:
            there = "no corner" if not len(sharp) else "one corner" if len(sharp) == 1 else "two corners"
            raise Refused(f"The outline of the faces has {there} only; name four places of it as corners.")
        chosen = np.sort(sharp[np.argsort(-turns[sharp], kind="stable")[:4]])
        at = self.starts[chosen]
        if len(at) == 4:
            return at, []
        sides = np.mod(np.roll(at, -1) - at, self.length)
        longest = int(sides.argmax())
        middle = float(np.mod(at[longest] + sides[longest] / 2, self.length))
        where = coordinates(self.at(np.array([middle]))[0])
        said = f"The faces have three sides, so the longest was parted in its middle, at {where}."
        return np.sort(np.r_[at, middle]), [said]

    def _turns(self) -> Array:
        """By how much the outline turns at the beginning of each walk, in radians."""
        step = 1e-3
        begins = [np.diff(walk.at(np.array([0, step]) * walk.far[-1]), axis=0)[0] for walk in self.walks]
        ends = [np.diff(walk.at(np.array([1 - step, 1]) * walk.far[-1]), axis=0)[0] for walk in self.walks]
        units = [np.array(all_of) / np.linalg.norm(all_of, axis=1)[:, None] for all_of in (begins, ends)]
        return np.arccos(np.clip((units[0] * np.roll(units[1], 1, axis=0)).sum(axis=1), -1, 1))


def outer_loop(form: Form, faces: Sequence[int]) -> tuple[OuterLoop, int]:
    """The longest closed chain of edges that only one of the faces has, and how many others there are."""
    used: dict[int, list[tuple[Face, Coedge]]] = defaultdict(list)
    for face in map(form.face, faces):
        for loop in face.loops:
            for coedge in loop:
                if coedge.edge >= 0:
                    used[coedge.edge].append((face, coedge))
    left = [_Walk.of(*mine[0]) for mine in used.values() if len(mine) == 1]
    left = [walk for walk in left if walk.far[-1] > 0]
    if not left:
        raise Refused("The faces close on themselves and have no outline; leave some of them out.")
    reach = 1e-5 * form.size
    loops = []
    while left:
        chain = [left.pop(0)]
        begin = chain[0].at(np.zeros(1))[0]
        while True:
            end = chain[-1].at(chain[-1].far[-1:])[0]
            if np.linalg.norm(end - begin) <= reach:
                break
            gaps = [float(np.linalg.norm(walk.at(np.zeros(1))[0] - end)) for walk in left]
            if not gaps or min(gaps) > reach:
                raise Refused(f"The outline of the faces is open at {coordinates(end)}; pick faces that hang together.")
            chain.append(left.pop(int(np.argmin(gaps))))
        loops.append(OuterLoop(tuple(chain)))
    loops.sort(key=lambda loop: -loop.length)
    return loops[0], len(loops) - 1
