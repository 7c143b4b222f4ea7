"""How a body stands to the plane of a blank: how deep and how high it reaches, and whether it floats anywhere."""

from __future__ import annotations

import numpy as np
import shapely

from ..geometry.curves import Array
from ..record import record

FLAT = 1e-6
"""Triangles whose normal is nearer to the level than this, in radians, are walls."""
NOTHING = 1e-6
"""What floats by no more than this, in mm, does not."""
ROUGH = 1e-3
"""Footprints are within this part of their size."""
MOST_LOOKED_AT = 600
BLOCK = 4_000_000


@record
class Standing:
    """From ``low`` to ``high`` mm; ``floats`` is the largest gap in mm below it.

    ``crosses`` tells whether it reaches through the plane: nothing of it floats, and not all of it is below.
    ``footprint`` are the rings (n, 2) round what it covers of the plane.
    """

    low: float
    high: float
    floats: float
    crosses: bool
    footprint: tuple[Array, ...] = ()


def standing(points: Array, triangles: np.ndarray) -> Standing:
    """Of a closed body by its triangles (t, 3) over points (n, 3), which run anticlockwise seen from outside."""
    corners = points[triangles]
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-300)
    lowest = _undersides(corners, corners[normal[:, 2] < -FLAT])
    floats = max(0.0, float(lowest.max(initial=0.0)))
    low, high = float(points[:, 2].min()), float(points[:, 2].max())
    crosses = floats <= NOTHING and high >= -NOTHING
    return Standing(low, high, floats if floats > NOTHING else 0.0, crosses, _footprint(corners[normal[:, 2] > FLAT]))


def _footprint(facing: Array) -> tuple[Array, ...]:
    """The rings round triangles (t, 3, 3) that look upwards, seen from above."""
    rough = ROUGH * float(np.ptp(facing[..., :2], axis=(0, 1)).max(initial=0.0))
    covered = shapely.union_all(shapely.polygons(facing[..., :2]), grid_size=rough / 100 or None).simplify(rough)
    parts = [part for part in shapely.get_parts(covered) if isinstance(part, shapely.Polygon)]
    rings = [ring for part in parts for ring in (part.exterior, *part.interiors)]
    return tuple(np.array(ring.coords)[:-1] for ring in rings)


def _undersides(corners: Array, facing: Array) -> Array:
    """The heights (k,) of places of the triangles ``facing`` down below which the body has nothing more.

    Each triangle is looked at near its corners and in its middle.
    """
    middle = facing.mean(axis=1)
    places = np.vstack([middle, *(middle + 0.999 * (facing[:, k] - middle) for k in range(3))])
    if len(places) > MOST_LOOKED_AT:  # those that matter most
        places = places[np.argsort(-places[:, 2])[:MOST_LOOKED_AT]]
    if not len(places):
        return np.zeros(0)
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    double = _cross(b - a, c - a)
    seen = np.abs(double) > 1e-12
    a, b, c, double = a[seen], b[seen], c[seen], double[seen]
    last = np.ones(len(places), bool)
    size = max(1, BLOCK // max(len(a), 1))
    for k in range(0, len(places), size):
        off = places[k : k + size, None] - a
        s, t = _cross(off, c - a) / double, _cross(b - a, off) / double
        over = (s > 0) & (t > 0) & (s + t < 1)
        height = a[:, 2] + s * (b - a)[:, 2] + t * (c - a)[:, 2]
        further = over & (places[k : k + size, 2:] - height > 1e-6)
        last[k : k + size] = ~further.any(axis=1)
    return places[last, 2]


def _cross(p: Array, q: Array) -> Array:
    return p[..., 0] * q[..., 1] - p[..., 1] * q[..., 0]
