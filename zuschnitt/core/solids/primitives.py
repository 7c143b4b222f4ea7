"""Simple bodies from numbers: a block, a tube or cone, a dome, with a wall or solid."""

from __future__ import annotations

import numpy as np
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox
from OCP.gp import gp_Pnt
from OCP.TopoDS import TopoDS_Shape

from ..errors import Refused
from ..plane.contour import Contour
from .profiles import turned


def block(width: float, depth: float, height: float) -> TopoDS_Shape:
    """A block that stands on z = 0, its middle on the z axis."""
    return BRepPrimAPI_MakeBox(gp_Pnt(-width / 2, -depth / 2, 0), gp_Pnt(width / 2, depth / 2, height)).Shape()


def tube(bottom: float, top: float, height: float, wall: float) -> TopoDS_Shape:
    """A tube or cone by its outer diameters, standing on z = 0 about the z axis; solid where the wall is 0.

    The wall is measured square to its faces. Raises Refused where it has no room.
    """
    outer = np.array([[bottom / 2, 0.0], [top / 2, height]])
    if outer[:, 0].max() <= 0:
        raise Refused("A tube needs a diameter above 0 at one end; change it.")
    if not wall:
        return turned([_closed([[0, 0], *outer.tolist(), [0, height]])], 360.0)
    lean = np.hypot(height, (top - bottom) / 2) / height
    inner = outer - [wall * lean, 0]
    if inner[:, 0].max() <= 0:
        raise Refused(
            f"A wall of {wall:g} mm has no room in a tube that is {max(top, bottom):g} mm across; make it thinner."
        )
    if inner[:, 0].min() < 0:  # the hole of a cone ends at its tip
        slope = (inner[1] - inner[0]) / height
        tip = [0.0, float(-inner[0, 0] / slope[0])]
        low = inner[0, 0] < 0
        ring = [[0, 0], outer[0], outer[1], inner[1], tip] if low else [outer[0], outer[1], [0, height], tip, inner[0]]
        return turned([_closed(ring)], 360.0)
    return turned([_closed([outer[0], outer[1], inner[1], inner[0]])], 360.0)


def dome(diameter: float, height: float, wall: float) -> TopoDS_Shape:
    """A cap of a ball over a circle in z = 0, ``height`` high, up to the whole ball; hollow from below with a wall.

    Raises Refused for heights that no ball of that rim has, and walls without room.
    """
    rim = diameter / 2
    radius = (rim**2 + height**2) / (2 * height)
    if wall >= min(radius, height):
        raise Refused(f"A wall of {wall:g} mm has no room in a dome {height:g} mm high; make it thinner.")
    outer = _cap(radius, height)
    if not wall:
        return turned([Contour(np.array([[0, 0], *outer[0]]), np.array([0, *outer[1], 0.0]), True)], 360.0)
    inner, bulges = _cap(radius - wall, height - wall, height - radius)
    points = np.array([*outer[0], *inner[::-1]])
    return turned([Contour(points, np.array([*outer[1], 0.0, *(-b for b in bulges[::-1]), 0.0]), True)], 360.0)


def _cap(radius: float, height: float, middle: float | None = None) -> tuple[list[list[float]], list[float]]:
    """An arc about (0, ``middle``) from where it leaves y = 0 up to its top at ``height``, and its bulge."""
    middle = height - radius if middle is None else middle
    begin = np.arcsin(np.clip(-middle / radius, -1, 1))
    start = [float(radius * np.cos(begin)), 0.0]
    return [start, [0.0, height]], [float(np.tan((np.pi / 2 - begin) / 4))]


def _closed(points) -> Contour:
    found = np.array(points, float)
    apart = np.linalg.norm(found - np.roll(found, 1, axis=0), axis=1) > 1e-9
    return Contour.polyline(found[apart], closed=True)
