"""Holes through plates that make them lighter, with a margin kept all round."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely

from .rib import Rib

ROUND = 0.5
"""Corners of the holes have a radius of this part of the margin."""
LEAST = 1.0
"""A hole narrower than so many margins is left out."""


def lightened(rib: Rib, margin: float) -> Rib:
    """The rib with a hole wherever ``margin`` mm of material stay on all sides, between its edges and its slots."""
    radius = ROUND * margin
    inner = rib.area.buffer(-margin - radius).buffer(radius)
    inner = inner.difference(_webs(rib, margin))
    inner = inner.buffer(-radius).buffer(radius)
    holes = [hole for hole in shapely.get_parts(inner) if not hole.buffer(-LEAST * margin / 2).is_empty]
    if not holes:
        return rib
    return replace(rib, area=rib.area.difference(shapely.union_all(np.array(holes))))


def _webs(rib: Rib, margin: float) -> shapely.Geometry:
    """What stays in line with each slot, from edge to edge, so that the plates still carry each other."""
    low, high = np.reshape(rib.area.bounds, (2, 2))
    reach = float(np.linalg.norm(high - low))
    strips = [
        shapely.LineString([slot.at - reach * slot.way, slot.at + reach * slot.way]).buffer(
            (slot.width + margin) / 2, cap_style="flat"
        )
        for slot in rib.slots
    ]
    return shapely.union_all(np.array(strips)) if strips else shapely.Polygon()
