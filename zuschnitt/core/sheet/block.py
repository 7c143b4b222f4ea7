"""A block hollowed to a thickness, with sides left off: a form of planes, made of numbers."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from ..errors import Refused
from ..form.build import connected
from ..form.form import Coedge, Edge, Face, Form
from ..form.meshing import with_meshes
from ..geometry.curves import Array, Line
from ..geometry.surfaces import Frame, Plane
from .sides import SIDES

_AXIS = {"left": (0, 0), "right": (0, 1), "front": (1, 0), "back": (1, 1), "bottom": (2, 0), "top": (2, 1)}


def hollowed(width: float, depth: float, height: float, thickness: float, off: Sequence[str], name="block") -> Form:
    """A block of outer size ``width`` x ``depth`` x ``height``, in mm along x, y and z, hollowed to ``thickness``.

    ``off`` are the sides that are left off, one at least. Its faces are, in this order, the outer sides that are
    left, the inner ones, and the rims. Raises Refused.
    """
    size = np.array([width, depth, height], float)
    if not (np.isfinite(size).all() and (size > 0).all() and np.isfinite(thickness) and thickness > 0):
        raise Refused("A block needs a width, a depth, a height and a thickness above 0; change them.")
    unknown = [side for side in off if side not in SIDES]
    if unknown:
        raise Refused(f"A block has no side {unknown[0]!r}; its sides are {', '.join(SIDES)}.")
    if not off:
        raise Refused("A block with all its sides cannot be opened or made from sheet; leave a side off.")
    if len(set(off)) == len(SIDES):
        raise Refused("A block with all its sides left off is nothing; leave fewer off.")
    low, high = np.zeros(3), size.copy()
    for side, (axis, end) in _AXIS.items():
        if side not in off:
            if end:
                high[axis] -= thickness
            else:
                low[axis] += thickness
    if (high - low <= thickness).any():
        raise Refused(
            f"Walls of {thickness:g} mm leave no more hollow than they are thick in a block of that size, which is no "
            "sheet part; take a thinner sheet, or a larger block."
        )
    corners: list[tuple[list[list[Array]], Array]] = []
    kept = [side for side in SIDES if side not in off]
    for side in kept:
        corners.append(_rectangle(side, np.zeros(3), size, outer=True))
    for side in kept:
        corners.append(_rectangle(side, low, high, outer=False))
    for side in SIDES:
        if side in off:
            corners.extend(_rim(side, size, low, high))
    return solid_of(corners, name)


def _normal(side: str, outer: bool) -> Array:
    axis, end = _AXIS[side]
    normal = np.zeros(3)
    normal[axis] = 1.0 if bool(end) == outer else -1.0
    return normal


def _rectangle(side: str, low: Array, high: Array, outer: bool) -> tuple[list[list[Array]], Array]:
    axis, end = _AXIS[side]
    u, v = (k for k in range(3) if k != axis)
    ring = []
    for a, b in ((low[u], low[v]), (high[u], low[v]), (high[u], high[v]), (low[u], high[v])):
        point = np.zeros(3)
        point[axis], point[u], point[v] = (high if end else low)[axis], a, b
        ring.append(point)
    return [ring], _normal(side, outer)


def _rim(side: str, size: Array, low: Array, high: Array) -> list[tuple[list[list[Array]], Array]]:
    """What is left of a side that is off: the edges of the walls beside it."""
    axis, end = _AXIS[side]
    u, v = (k for k in range(3) if k != axis)
    left = shapely.box(0, 0, size[u], size[v]) - shapely.box(low[u], low[v], high[u], high[v])
    found = []
    for part in [] if left.is_empty else shapely.get_parts(left):
        rings = []
        for ring in (part.exterior, *part.interiors):
            points = np.zeros((len(ring.coords) - 1, 3))
            points[:, axis] = size[axis] if end else 0.0
            points[:, [u, v]] = np.array(ring.coords)[:-1]
            rings.append(list(points))
        found.append((rings, _normal(side, True)))
    return found


def solid_of(faces: Sequence[tuple[Sequence[Sequence[Array]], Array]], name: str) -> Form:
    """A form of plane faces: each its rings of corners, the outer one first, and its outer normal."""
    edges: list[Edge] = []
    known: dict[tuple, int] = {}
    made = []
    for number, (rings, normal) in enumerate(faces, 1):
        first = np.asarray(rings[0])
        x = first[1] - first[0]
        x = x / np.linalg.norm(x)
        frame = Frame(first[0], np.array([x, np.cross(normal, x), normal]))
        loops = []
        area = 0.0
        for k, ring in enumerate(rings):
            flat = frame.local(np.asarray(ring))[:, :2]
            signed = _signed(flat)
            points = np.asarray(ring)
            if (signed > 0) != (k == 0):
                flat, points = flat[::-1], points[::-1]
            area += abs(signed) * (1 if k == 0 else -1)
            loop = []
            for i in range(len(flat)):
                j = (i + 1) % len(flat)
                ends = tuple(sorted((tuple(np.round(points[i], 9)), tuple(np.round(points[j], 9)))))
                if ends not in known:
                    known[ends] = len(edges)
                    edges.append(Edge(len(edges) + 1, Line.between(np.array(ends[0]), np.array(ends[1])), 0.0, 1.0, ()))
                forward = ends[0] == tuple(np.round(points[i], 9))
                a, b = (flat[i], flat[j]) if forward else (flat[j], flat[i])
                loop.append(Coedge(known[ends], Line.between(a, b), *((0.0, 1.0) if forward else (1.0, 0.0))))
            loops.append(tuple(loop))
        made.append(Face(number, Plane(frame), False, tuple(loops), float(area)))
    return with_meshes(connected(Form(name, tuple(made), tuple(edges))))


def _signed(ring: Array) -> float:
    x, y = ring[:, 0], ring[:, 1]
    return float((x * np.roll(y, -1) - y * np.roll(x, -1)).sum()) / 2
