"""What outlines bound, found from their lines alone."""

from __future__ import annotations

from collections.abc import Sequence

import shapely

from zuschnitt.core.plane.contour import Contour
from zuschnitt.core.plane.region import Region


def pieces_of(outline: Sequence[Contour]) -> list[shapely.Polygon]:
    """The pieces of an outline, from left to right."""
    shape = Region(tuple(contour.flattened(0.1)[:-1] for contour in outline)).shape
    return sorted(shapely.get_parts(shape), key=lambda part: part.bounds[0])
