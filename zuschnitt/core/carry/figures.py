"""Closed contours as figures: those that cross count as one, and those that lie in each other alternate."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from ..errors import Refused
from ..plane.contour import Contour
from ..record import record

FINE = 1e-3
"""Contours are flattened to this, in mm, to ask what lies in them."""


@record
class Figure:
    """A region of the blank; the contours (their indices) whose union is its ``outer`` part, and its ``islands``."""

    name: str
    region: shapely.Geometry
    outer: tuple[int, ...]
    islands: tuple[int, ...]

    @property
    def contours(self) -> tuple[int, ...]:
        return (*self.outer, *self.islands)


def figures(contours: Sequence[Contour]) -> list[Figure]:
    """All figures of closed contours. Raises Refused for one that crosses itself."""
    shapes = []
    for i, contour in enumerate(contours):
        ring = shapely.Polygon(contour.flattened(FINE))
        if not ring.is_valid:
            raise Refused(
                f"{name_of(contour, i)} crosses itself, so it is not clear what lies in it; mend the drawing."
            )
        shapes.append(ring)
    groups = _crossing(shapes)
    regions = [shapely.union_all([shapes[k] for k in group]) for group in groups]
    around: list[list[int]] = [[] for _ in groups]
    holder, held = shapely.STRtree(regions).query(regions, predicate="contains_properly") if regions else ((), ())
    for a, b in zip(np.asarray(held).tolist(), np.asarray(holder).tolist(), strict=True):
        around[a].append(b)
    found = []
    for k, group in enumerate(groups):
        if len(around[k]) % 2:
            continue
        islands = [m for m in range(len(groups)) if k in around[m] and len(around[m]) == len(around[k]) + 1]
        region = regions[k].difference(shapely.union_all([regions[m] for m in islands])) if islands else regions[k]
        shapely.prepare(region)
        inner = tuple(i for m in islands for i in groups[m])
        found.append(Figure(name_of(contours[group[0]], group[0]), region, tuple(group), inner))
    return found


def name_of(contour: Contour, index: int) -> str:
    return contour.name or f"figure {index + 1}"


def _crossing(shapes: Sequence[shapely.Polygon]) -> list[list[int]]:
    """The indices of shapes whose outlines meet, together."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    lines = [shape.exterior for shape in shapes]
    one, other = shapely.STRtree(lines).query(lines, predicate="intersects") if lines else (np.zeros(0, int),) * 2
    graph = coo_matrix((np.ones(len(one)), (one, other)), shape=(len(shapes), len(shapes)))
    number, labels = connected_components(graph, directed=False)
    return [np.nonzero(labels == k)[0].tolist() for k in range(number)]
