"""Faces while they are being laid flat: where each lies, what is joined, and the outline that is left."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
import shapely

from ..correspondence import STILL, Rigid
from ..form.curves import Array
from ..form.form import Coedge
from ..form.unwrapped import Unwrapped
from .outline import Walk

GAP = 10.0
"""Between the pieces of a blank, in mm."""

Place = tuple[int, int, int]
"""A coedge by its face's index, its loop, and its place in the loop."""


@dataclass
class LaidFace:
    """A face while it is being laid: its coedges all walk anticlockwise on the blank."""

    unwrapped: Unwrapped
    loops: list[list[Coedge]]
    shape: shapely.Geometry
    region_rings: tuple[Array, ...]
    placement: Rigid = STILL
    piece: int = -1
    joined: dict[tuple[int, int], Place] = field(default_factory=dict)

    def points(self, coedge: Coedge, t: Array) -> Array:
        return self.placement.apply(self.unwrapped.chart_points(coedge, t))

    def walk(self, coedge: Coedge) -> Walk:
        return (lambda t: self.points(coedge, t)), coedge.start, coedge.end


def laid_face(face: Unwrapped) -> LaidFace:
    region = face.region(0.01)
    loops = [list(loop) for loop in face.loops]
    if max((_signed_area(r) for r in region.rings), key=abs) < 0:
        loops = [[_backwards(c) for c in reversed(loop)] for loop in loops]
    return LaidFace(face, loops, region.shape, region.rings)


def _signed_area(ring: Array) -> float:
    x, y = ring.T
    return float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum() / 2)


def _backwards(coedge: Coedge) -> Coedge:
    return Coedge(coedge.edge, coedge.curve, coedge.end, coedge.start)


def spread(flats: list[LaidFace], pieces: int) -> None:
    """Lays further pieces to the right of the first."""
    right = None
    for piece in range(pieces):
        mine = [f for f in flats if f.piece == piece]
        points = np.vstack([f.placement.apply(r) for f in mine for r in f.region_rings])
        low, high = points.min(axis=0), points.max(axis=0)
        if right is None:
            right, bottom = high[0], low[1]
            continue
        shift = Rigid(np.eye(2), np.array([right + GAP - low[0], bottom - low[1]]))
        for flat in mine:
            flat.placement = shift.after(flat.placement)
        right += GAP + high[0] - low[0]


def outline_chains(flats: list[LaidFace]) -> list[list[Place]]:
    """The coedges that were not joined, chained into closed loops."""
    waiting = {
        (i, k, j)
        for i, flat in enumerate(flats)
        for k, loop in enumerate(flat.loops)
        for j in range(len(loop))
        if (k, j) not in flat.joined
    }
    chains = []
    while waiting:
        start = min(waiting)
        chain, place = [], start
        while place in waiting:
            waiting.remove(place)
            chain.append(place)
            place = following(flats, place)
            while place[1:] in flats[place[0]].joined:
                place = following(flats, flats[place[0]].joined[place[1:]])
        chains.append(chain)
    return chains


def following(flats: list[LaidFace], place: Place) -> Place:
    i, k, j = place
    return i, k, (j + 1) % len(flats[i].loops[k])
