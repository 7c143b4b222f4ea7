"""Where a beam as wide as it is cuts more than was drawn, or cannot cut all of it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from ..geometry.curves import Array
from ..plane.contour import Contour, flattened
from ..record import record
from ..wording import counted, place
from .kerf import Compensated

FINE = 0.002
"""Contours are looked at within this, in mm."""
SPARED = 0.01
"""So much of a contour, in mm, is not worth a word."""
SHORT = 2.0
"""Corners and slots are left with material for so many widths of the beam before it is said."""


@record
class Places:
    """How many contours it is, how much at the worst in mm, and where (2,)."""

    count: int
    most: float
    worst: Array


def said_of_beam(drawn: Sequence[Contour], made: Compensated, kerf: float) -> list[str]:
    """What a beam of ``kerf`` mm does that nobody has drawn, in words."""
    moved = np.nonzero(made.moved)[0]
    if not len(moved):
        return []
    runs, origin = _rings([made.contours[k] for k in moved]), made.origin[moved]
    said = []
    near = _cut_into(drawn, runs, origin, kerf)
    if near is not None:
        said.append(
            f"{counted(near.count, 'contour')} nearer to another than a kerf of {kerf:g} mm: the beam cuts up to "
            f"{near.most:.2f} mm into what lies beside it, most near {place(near.worst)}; set them further apart."
        )
    left = _not_reached(drawn, runs, origin, kerf)
    if left is not None:
        said.append(
            f"{counted(left.count, 'contour')} with a slot or corner narrower than a kerf of {kerf:g} mm: up to "
            f"{left.most:.2f} mm of it is not cut, most near {place(left.worst)}."
        )
    return said


def _cut_into(drawn: Sequence[Contour], runs: np.ndarray, origin: np.ndarray, kerf: float) -> Places | None:
    """Contours whose beam crosses another that was drawn; ``runs`` (n,) are the beam's, of the contours ``origin``."""
    rings = _rings(drawn)
    i, j = shapely.STRtree(rings).query(runs, predicate="dwithin", distance=kerf / 2 - SPARED)
    other = origin[i] != j
    i, j = i[other], j[other]
    if not len(i):
        return None
    depth = kerf / 2 - shapely.distance(runs[i], rings[j])
    k = int(np.argmax(depth))
    worst = shapely.get_coordinates(shapely.shortest_line(rings[j[k]], runs[i[k]]))[0]
    return Places(len(np.unique(origin[i])), float(depth[k]), worst)


def _not_reached(drawn: Sequence[Contour], runs: np.ndarray, origin: np.ndarray, kerf: float) -> Places | None:
    """Contours along which the beam leaves material, more than lies in any corner."""
    found: list[tuple[float, Array]] = []
    shapely.prepare(runs)
    for k in np.unique(origin).tolist():
        points = shapely.points(_dense(drawn[k], kerf))
        own = runs[origin == k]
        far = ~np.any([shapely.dwithin(run, points, (0.5 + SHORT) * kerf) for run in own], axis=0)
        if far.any():
            away = np.min([shapely.distance(points[far], run) for run in own], axis=0) - kerf / 2
            found.append((float(away.max()), shapely.get_coordinates(points[far][away.argmax()])[0]))
    if not found:
        return None
    most, worst = max(found, key=lambda each: each[0])
    return Places(len(found), most, worst)


def _rings(contours: Sequence[Contour]) -> np.ndarray:
    return np.array([shapely.LinearRing(ring) for ring in flattened(contours, FINE)])


def _dense(contour: Contour, step: float) -> Array:
    """Points along a contour, on average no further apart than ``step``, and its corners."""
    ring = shapely.LinearRing(contour.flattened(SPARED))
    return shapely.get_coordinates(shapely.segmentize(ring, max(step, ring.length / 500)))
