"""Zones of a sheet part in pieces that are as good as flat: as polygons of its plane, and as bodies of triangles."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np
import shapely

from ..geometry.curves import Array
from ..geometry.surfaces import Frame
from .cone_roll import ConeRoll
from .part import Roll, SheetPart, Zone
from .zones import region

if TYPE_CHECKING:
    from ..solids.by_mesh import MeshBody

MOST = 200
"""No rolled zone is divided into more strips than this."""


def zone_bodies(
    part: SheetPart, k: int, frame: Frame, stage: float, sag: float, inset: float = 0.0
) -> Iterator[MeshBody]:
    """The pieces of a zone as bodies. ``frame`` is its own at that stage between flat and folded."""
    from ..solids.by_mesh import MeshBody  # slow to import

    low, high = inset - part.thickness, -inset

    def placed(points: Array) -> Array:
        below = part.surface(k, points[:, :2], stage, low)[0]
        above = part.surface(k, points[:, :2], stage, high)[0]
        return frame.world(np.where(points[:, 2:] > (low + high) / 2, above, below))

    for piece in zone_pieces(part, k, stage, sag, inset):
        body = MeshBody.drawn_out(piece, low, high, placed)
        if body is not None:
            yield body


def zone_pieces(part: SheetPart, k: int, stage: float, sag: float, inset: float = 0.0) -> list[shapely.Polygon]:
    """A zone, by its place, in polygons of its plane; a rolled one in strips whose chords are within ``sag`` mm.

    It is made smaller by ``inset`` mm on all sides.
    """
    zone, roll = part.zones[k], part.rolled(k, stage)
    shape = region(zone.loops, sag / 4).shape
    if inset:
        shape = shape.buffer(-inset, join_style="mitre")
    if roll is not None:
        shape = shapely.intersection(shape, list(_strips(part, roll, zone, sag)))
    pieces = shapely.get_parts(shape)
    return [one for one in pieces if isinstance(one, shapely.Polygon) and one.area > inset**2]


def _strips(part: SheetPart, roll: Roll | ConeRoll, zone: Zone, sag: float) -> Iterator[shapely.Polygon]:
    """What a rolled zone is cut to, along its rulings."""
    points = np.vstack([step.points() for step in zone.steps])
    low, high = points.min(axis=0) - 1.0, points.max(axis=0) + 1.0
    if isinstance(roll, Roll):
        radius = max(abs(roll.skin(0.0, part.thickness)), abs(roll.skin(-part.thickness, part.thickness)))
        at = _steps(points[:, 0].min() / roll.neutral, points[:, 0].max() / roll.neutral, radius, sag) * roll.neutral
        for a, b in pairwise(at):
            yield shapely.box(a, low[1], b, high[1])
        return
    yield from _wedges(roll, zone, np.abs(points - roll.apex).max(), part.thickness, sag)


def _wedges(roll: ConeRoll, zone: Zone, far: float, thickness: float, sag: float) -> Iterator[shapely.Polygon]:
    first, last = roll.around(zone.loops)
    radius = roll.inside_radii(zone.loops, thickness)[1] + thickness
    turns = _steps(first, last, radius, sag) * np.sin(roll.half_angle)
    reach = 4 * far * np.sign(roll.rho)
    for a, b in pairwise(turns):
        way = np.array([[np.sin(t), roll.way * np.cos(t)] for t in (a, b)])
        yield shapely.Polygon([roll.apex, *(roll.apex + reach * way)])


def _steps(first: float, last: float, radius: float, sag: float) -> Array:
    widest = 2 * np.arccos(max(1 - sag / radius, 0.5))
    return np.linspace(first, last, 1 + int(np.clip(np.ceil((last - first) / widest), 1, MOST)))
