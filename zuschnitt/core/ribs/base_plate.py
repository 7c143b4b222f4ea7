"""A base plate, into which the ribs of the first family are put with tongues."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely

from ..errors import CannotBeDone
from ..geometry.curves import Array
from .outlines import PlateFrame
from .rib import Making, Rib
from .ribs import Ribs

SHARE = 1 / 3
"""A tongue is so long a part of the edge on which a rib stands."""
SHORTEST = 3.0
"""An edge shorter than so many thicknesses gets no tongue."""
RIM = 2.0
"""The plate reaches beyond the ribs by so many thicknesses."""
JUST_ABOVE = 1e-3


def on_a_base(ribs: Ribs, letter: str, level: float, how: Making) -> Ribs:
    """The ribs, which end at ``level``, on a plate below it; those whose names begin with ``letter`` have tongues.

    Raises CannotBeDone where no edge on which they stand is long enough for one.
    """
    frame = _plate_frame(ribs.ribs[0].frame, level, how.thickness)
    stood: list[shapely.Geometry] = []
    openings: list[shapely.Geometry] = []
    made = []
    for rib in ribs.ribs:
        area = rib.area
        for low, high in _feet(rib, level):
            stood.append(_strip(rib.frame, frame, low, high, how.thickness))
            if rib.name.startswith(letter) and high - low > SHORTEST * how.thickness:
                half = SHARE * (high - low) / 2
                middle = (low + high) / 2
                tongue = shapely.box(middle - half, level - how.thickness, middle + half, level + JUST_ABOVE)
                area = area.union(tongue)
                reach = half + how.fit / 2
                openings.append(_strip(rib.frame, frame, middle - reach, middle + reach, how.thickness + how.fit))
        made.append(replace(rib, area=area))
    if not openings:
        raise CannotBeDone(
            f"No rib stands on the plane at {level:g} mm with an edge that is long enough for a tongue; "
            "put the base plate elsewhere, or leave it out."
        )
    outline = shapely.union_all(np.array(stood)).convex_hull.buffer(RIM * how.thickness)
    plate = Rib("B1", frame, outline.difference(shapely.union_all(np.array(openings))), ())
    if ribs.upwards:  # nothing can go in from below the plate
        made = sorted((replace(rib, from_above=True) for rib in made), key=lambda rib: ribs.upwards.index(rib.name))
    together = tuple(("B1", *group) if k == 0 else group for k, group in enumerate(ribs.groups))
    return replace(ribs, ribs=(plate, *made), groups=together)


def _plate_frame(rib: PlateFrame, level: float, thickness: float) -> PlateFrame:
    return PlateFrame(rib.up, rib.normal, np.cross(rib.up, rib.normal), level - thickness / 2)


def _feet(rib: Rib, level: float) -> list[tuple[float, float]]:
    """From where to where along its own plane a rib stands on the level."""
    left, _, right, _ = rib.area.bounds
    line = shapely.LineString([(left - 1, level + JUST_ABOVE), (right + 1, level + JUST_ABOVE)])
    met = shapely.get_parts(rib.area.intersection(line))
    spans = (shapely.get_coordinates(part)[:, 0] for part in met if part.length > 0)
    return sorted((float(x.min()), float(x.max())) for x in spans)


def _strip(rib: PlateFrame, plate: PlateFrame, low: float, high: float, wide: float) -> shapely.Geometry:
    """What lies under a part of a rib's edge, on the plate."""
    ends: Array = np.array([[low, 0.0], [high, 0.0]])
    return shapely.LineString(plate.flat(rib.space(ends))).buffer(wide / 2, cap_style="flat")
