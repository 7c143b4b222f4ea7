"""A flat figure whose walls are drawn in and whose edges are rounded, of triangles: its outline moved in, by levels.

The kernel draws in and rounds along few lines and arcs exactly, and fails along many with corners, as letters have.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
import shapely

from ..errors import CannotBeDone
from ..geometry.curves import Array
from ..plane.region import rings_of, triangles_within

ROUND = 2e-3
"""The levels of a rounding follow it within this, in mm."""
LEAST = 4
"""It has no fewer steps than this."""
MITRED = 5.0
"""Where walls meet at an inner corner they run on to each other, to so many times what they are drawn in at most."""
HALVINGS = 30


def drawn_in(
    region: shapely.Geometry, height: float, draft: float, radius: float, reach: float
) -> tuple[Array, np.ndarray]:
    """Points (n, 3) and triangles (t, 3), outwards, of what stands on a region of the plane z = 0.

    Its walls are drawn in by ``draft`` degrees up to the ``height`` (or down to it, where it is negative), and its
    edges there are rounded by ``radius`` mm; it goes on by ``reach`` mm on the other side of the plane, upright. Raises
    CannotBeDone where there is no room for that.
    """
    insets, heights = _profile(abs(height), np.radians(draft), radius)
    levels = [region, *(_inset(region, inset) for inset in insets[1:].tolist())]
    if any(_kind(level) != _kind(region) for level in levels):
        raise CannotBeDone(_narrow(region, float(insets[-1]), draft, radius))
    heights = np.r_[-reach, heights] if reach else heights
    levels = [region, *levels] if reach else levels
    corners = [_over(region, heights[0])[:, ::-1], _over(levels[-1], heights[-1])]
    for k, (low, high) in enumerate(pairwise(levels)):
        if low is high:
            corners.append(_upright(region, heights[k], heights[k + 1]))
        else:
            corners.append(_between(low, high, heights[k], heights[k + 1]))
    points = np.concatenate(corners).reshape(-1, 3)
    triangles = np.arange(len(points)).reshape(-1, 3)
    if height < 0:
        return points * [1.0, 1.0, -1.0], triangles[:, ::-1]
    return points, triangles


def _profile(height: float, draft: float, radius: float) -> tuple[Array, Array]:
    """How far (n,) in mm the outline is moved in at heights (n,), from 0 to ``height``."""
    if not radius:
        return np.array([0.0, height * np.tan(draft)]), np.array([0.0, height])
    # the circle that touches the wall and the top
    centre = np.array([(radius + (height - radius) * np.sin(draft)) / np.cos(draft), height - radius])
    steps = max(LEAST, int(np.ceil((np.pi / 2 - draft) / (2 * np.arccos(max(0.0, 1 - ROUND / radius))))))
    angle = np.linspace(draft, np.pi / 2, steps + 1)
    inset, at = centre[0] - radius * np.cos(angle), centre[1] + radius * np.sin(angle)
    if at[0] < 0:
        raise CannotBeDone(
            f"Its edges cannot be rounded with {radius:g} mm at a height of {height:g}; round them less."
        )
    if at[0] == 0:
        return inset, at
    return np.r_[0.0, inset], np.r_[0.0, at]


def _inset(region: shapely.Geometry, inset: float) -> shapely.Geometry:
    return region.buffer(-inset, join_style="mitre", mitre_limit=MITRED) if inset else region


def _kind(region: shapely.Geometry) -> list[int]:
    """The holes of its parts."""
    return sorted(len(part.interiors) for part in shapely.get_parts(region))


def _narrow(region: shapely.Geometry, inset: float, draft: float, radius: float) -> str:
    """What is said where a region is too narrow to be moved in so far."""
    low, high = 0.0, inset
    for _ in range(HALVINGS):
        middle = (low + high) / 2
        low, high = (middle, high) if _kind(_inset(region, middle)) == _kind(region) else (low, middle)
    what = f"rounded with {radius:g} mm" if radius else f"drawn in by {draft:g}°"
    what = f"drawn in by {draft:g}° and {what}" if draft and radius else what
    less = "a smaller angle, or a smaller radius" if radius else "a smaller angle, or less height"
    less = less if draft else f"no more than {np.floor(1e3 * low) / 1e3:g} mm"
    return (
        f"It cannot be {what}: it is {2 * low:.3g} mm wide at its narrowest, and {2 * inset:.3g} mm would be needed; "
        f"take {less}."
    )


def _over(region: shapely.Geometry, height: float) -> Array:
    """Triangles (t, 3, 3) of a region at a height, seen from above anticlockwise."""
    flat = triangles_within(region)
    return np.concatenate([flat, np.full((*flat.shape[:2], 1), height)], axis=2)


def _upright(region: shapely.Geometry, low: float, high: float) -> Array:
    """Walls (t, 3, 3) round a region from one height to another, seen from outside anticlockwise."""
    found = []
    for part in shapely.get_parts(region):
        for ring in rings_of(part):
            below, above = (np.column_stack([ring, np.full(len(ring), height)]) for height in (low, high))
            on = np.roll(below, -1, axis=0)
            found.append(np.stack([below, on, np.roll(above, -1, axis=0)], axis=1))
            found.append(np.stack([below, np.roll(above, -1, axis=0), above], axis=1))
    return np.concatenate(found)


def _between(outer: shapely.Geometry, inner: shapely.Geometry, low: float, high: float) -> Array:
    """Triangles (t, 3, 3) from the rings of a region at one height to those of a region within it at another one."""
    rings = [(ring, low) for part in shapely.get_parts(outer) for ring in rings_of(part)]
    rings += [(ring, high) for part in shapely.get_parts(inner) for ring in rings_of(part)]
    height = {tuple(point): level for ring, level in rings for point in ring.tolist()}
    flat = _over(shapely.multipolygons(_strips(outer, inner)), 0.0)
    flat[:, :, 2] = [[height[x, y] for x, y, _ in corner] for corner in flat.tolist()]
    return flat


def _strips(outer: shapely.Geometry, inner: shapely.Geometry) -> Sequence[shapely.Polygon]:
    """What lies between the rings of two regions that are alike, one within the other."""
    shells = [shapely.Polygon(part.exterior) for part in shapely.get_parts(outer)]
    found = []
    for part in shapely.get_parts(inner):
        around = next(shell for shell in shells if shell.contains(part))
        found.append(shapely.Polygon(around.exterior, [part.exterior]))
    holes = [shapely.Polygon(ring) for part in shapely.get_parts(outer) for ring in part.interiors]
    for ring in (ring for part in shapely.get_parts(inner) for ring in part.interiors):
        around = shapely.Polygon(ring)
        found.append(shapely.Polygon(ring, [hole.exterior for hole in holes if around.contains(hole)]))
    return found
