"""The outline of a blank moved inward."""

from __future__ import annotations

import numpy as np

from ..errors import CannotBeDone, Refused
from ..plane.contour import Contour
from ..plane.region import Region
from .blank import Blank

FINE = 1e-5
"""Outlines are flattened to this, in mm."""
ROUND = 64
"""Spans of a quarter of a round corner."""
SMALLEST = 1e-6


def inset(blank: Blank, distance: float, corner: float) -> tuple[Contour, ...]:
    """Contours ``distance`` mm within the outline of a blank, their corners rounded by ``corner`` mm.

    Raises CannotBeDone where nothing is left.
    """
    if not (np.isfinite([distance, corner]).all() and distance >= 0 and corner >= 0):
        raise Refused("Inset and corner radius must be numbers that are not below 0 mm; change them.")
    whole = Region(tuple(contour.flattened(FINE)[:-1] for contour in blank.outline)).shape
    inner = whole.buffer(-distance, join_style="mitre", mitre_limit=50) if distance else whole
    if corner:
        inner = inner.buffer(-corner, join_style="mitre", mitre_limit=50).buffer(corner, quad_segs=ROUND)
    parts = [part for part in getattr(inner, "geoms", [inner]) if part.area > SMALLEST]
    if not parts:
        raise CannotBeDone(
            f"Nothing is left {distance:g} mm within the outline with corners of {corner:g} mm; take less of either."
        )
    found = []
    for part in parts:
        for ring in (part.exterior, *part.interiors):
            points = np.array(ring.simplify(FINE).coords if not corner else ring.coords)[:-1]
            keep = np.linalg.norm(np.roll(points, -1, axis=0) - points, axis=1) > 1e-7
            found.append(Contour.polyline(points[keep], closed=True, layer="CUT", name="pocket"))
    return tuple(found)
