"""A sheet part to look at while its values move: its zones as triangles, without true surfaces."""

from __future__ import annotations

import pickle
from collections.abc import Iterator
from functools import lru_cache

import manifold3d
import numpy as np
import shapely

from ..form.glimpse import Glimpse
from ..geometry.curves import Array
from ..plane.region import rings_of
from .part import SheetPart, Zone
from .pieces import zone_pieces

COARSE = 0.15
"""Rolled zones are cut to strips whose chords are within this part of the thickness."""
ROUND = 25
"""Places along each edge of a rolled zone."""
KEPT = 256
"""So many zones that were drawn last are kept."""


def glimpse(part: SheetPart, stage: float = 1.0) -> Glimpse:
    """The part at a stage from 0, flat, to 1, folded."""
    bodies, lines = [], []
    for k, (zone, frame) in enumerate(zip(part.zones, part.frames(stage), strict=True)):
        lone = SheetPart((Zone(zone.loops, part.rolled(k, stage)),), {}, part.thickness)
        points, triangles, ends = _drawn(pickle.dumps(lone))
        placed = np.split(frame.world(points), ends)
        bodies.append((placed[0], triangles))
        lines.extend(placed[1:])
    return Glimpse.of_bodies(bodies, lines)


@lru_cache(maxsize=KEPT)
def _drawn(about: bytes) -> tuple[Array, np.ndarray, np.ndarray]:
    """Of a pickled part of one zone, in the zone's own space: while one value of a part moves, most zones stay.

    Gives points (n, 3), triangles (t, 3) of the first of them, and where in the points these and each line end.
    """
    part: SheetPart = pickle.loads(about)
    pieces = [_Outlined(piece) for piece in zone_pieces(part, 0, 1.0, COARSE * part.thickness)]
    edges = list(_edges(part))
    ends = np.cumsum([0, *(len(piece.points) for piece in pieces), *map(len, edges)])
    flat, count = np.vstack([*(piece.points for piece in pieces), *edges]), int(ends[len(pieces)])
    above, below = (part.surface(0, flat, height=height)[0] for height in (0.0, -part.thickness))
    triangles = [piece.triangles(begin, count) for begin, piece in zip(ends, pieces, strict=False)]
    lines = list(_lines(part, np.split(above, ends[len(pieces) :])[1:], np.split(below, ends[len(pieces) :])[1:]))
    points = np.vstack([above[:count], below[:count], *lines])
    return points, np.vstack([np.zeros((0, 3), int), *triangles]), 2 * count + np.cumsum([0, *map(len, lines[:-1])])


def _edges(part: SheetPart) -> Iterator[Array]:
    """Each step of the zone as a polyline of its plane, as fine as it has to be when it is bent."""
    (zone,) = part.zones
    for step in zone.steps:
        if zone.roll is not None:
            yield step.curve.evaluate(np.linspace(step.start, step.end, ROUND))
        else:
            yield step.points(COARSE * part.thickness)


def _lines(part: SheetPart, above: list[Array], below: list[Array]) -> Iterator[Array]:
    """The edges of the zone on both sides of the sheet, and through it where the sheet ends."""
    for step, high, low in zip(part.zones[0].steps, above, below, strict=False):
        yield high
        yield low
        if step.joint is None:
            yield np.array([high[0], low[0]])
            yield np.array([high[-1], low[-1]])


class _Outlined:
    """A polygon, its rings one after the other: ``points`` (n, 2), material on the left."""

    def __init__(self, polygon: shapely.Polygon) -> None:
        self._rings = rings_of(polygon)
        self.points = np.vstack(self._rings)

    def triangles(self, begin: int, below: int) -> np.ndarray:
        """Of the plate between its points from place ``begin`` on, and those ``below`` places further."""
        caps = manifold3d.triangulate(self._rings)
        places = np.split(np.arange(len(self.points)), np.cumsum([len(ring) for ring in self._rings])[:-1])
        p, q = np.concatenate(places), np.concatenate([np.roll(ring, -1) for ring in places])
        walls = np.vstack([np.column_stack([p + below, q + below, q]), np.column_stack([p + below, q, p])])
        return begin + np.vstack([caps, caps[:, ::-1] + below, walls])
