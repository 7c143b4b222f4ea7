"""Ribs as plates that stand in space."""

from __future__ import annotations

import numpy as np
import shapely

from ..geometry.curves import Array
from ..plane.contour import Contour
from ..plane.region import triangles_within
from ..plane.thinning import thinned
from ..record import record
from .outlines import PlateFrame
from .rib import Rib
from .ribs import Ribs

FINE = 1e-3
"""Lines and arcs stand for the fine spans of an outline within this, in mm."""


@record
class Plate:
    """A piece: ``outline`` and ``holes`` in the plate's own plane, its ``frame`` in space and its ``thickness``."""

    name: str
    outline: Contour
    holes: tuple[Contour, ...]
    frame: PlateFrame
    thickness: float


def plates(ribs: Ribs) -> list[Plate]:
    """Each piece of each rib, half its thickness on both sides of its plane."""
    return [
        Plate(rib.name, piece[0], piece[1:], rib.frame, ribs.thickness) for rib in ribs.ribs for piece in pieces(rib)
    ]


def pieces(rib: Rib) -> list[tuple[Contour, ...]]:
    """The outline and the holes of each piece, in lines and arcs."""
    found = []
    for part in shapely.get_parts(rib.area):
        rings = [shapely.get_coordinates(ring)[:-1] for ring in (part.exterior, *part.interiors)]
        if rib.faceted:
            rings = [shapely.get_coordinates(shapely.simplify(shapely.LinearRing(ring), FINE))[:-1] for ring in rings]
        fine = [Contour.polyline(points, True, "CUT", rib.name) for points in rings]
        found.append(tuple(fine) if rib.faceted else thinned(fine, FINE).contours)
    return found


def faces_of(rib: Rib, thickness: float) -> Array:
    """Triangles (t, 3, 3) all round the pieces of a rib, seen from outside anticlockwise."""
    half = thickness / 2
    found = []
    for part in shapely.get_parts(shapely.orient_polygons(rib.area)):
        flat = triangles_within(part)
        for side, corners in ((half, flat), (-half, flat[:, ::-1])):
            found.append(rib.frame.space(corners.reshape(-1, 2), side).reshape(-1, 3, 3))
        for ring in (part.exterior, *part.interiors):
            points = shapely.get_coordinates(ring)
            below, above = (rib.frame.space(points, side) for side in (-half, half))
            found.append(np.stack([below[:-1], below[1:], above[1:]], axis=1))
            found.append(np.stack([below[:-1], above[1:], above[:-1]], axis=1))
    corners = np.concatenate(found)
    left_handed = np.cross(rib.frame.along, rib.frame.up) @ rib.frame.normal < 0
    return corners[:, ::-1] if left_handed else corners
