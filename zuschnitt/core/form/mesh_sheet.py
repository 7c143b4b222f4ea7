"""The triangles of one face as a sheet: cut so that it can lie flat, laid flat where it can, and charted."""

from __future__ import annotations

from functools import cached_property

import numpy as np

from ..flatten.metric import Metric, singular_values
from ..flatten.relaxed import first_map, relax
from ..geometry.curves import Array
from ..mesh.opening import cuts_to_disc, edge_keys, graph, numbered_anew, opened, path_keys, shortest_path
from ..mesh.triangles import boundary_rings
from ..record import record

ROUND = 2e-4
"""An inner point whose angles lack more than this to a full turn, in radians, cannot be laid flat."""
ROUND_IN_ALL = 0.02
"""Where those of all inner points together lack more than this, in radians, the face is too round to be laid flat."""
ISOMETRIC = 2e-5
"""A mesh counts as developed where no triangle is stretched by more than this."""
APEX = 0.02
"""An inner point whose angles lack more than this to a full turn, in radians, is a tip, as that of a cone is."""
MOST_TIPS = 12
"""A face with more of them is no cone that only needs to be cut open."""
CHARTED = 300_000
"""Up to so many triangles a face gets a chart in good proportion, above that only one without flips."""


@record
class Sheet:
    """The triangles of one face: ``triangles`` (t, 3) over its own ``points`` (n, 3), ``old`` (n,) their numbers."""

    points: Array
    triangles: np.ndarray
    old: np.ndarray

    @classmethod
    def opened(cls, points: Array, triangles: np.ndarray, cut: np.ndarray) -> Sheet:
        """Triangles over points of the whole, cut open along the edges with the keys ``cut``."""
        own, old = opened(triangles, len(points), cut)
        return cls(points[old], own, old)

    @cached_property
    def rings(self) -> list[np.ndarray]:
        return boundary_rings(self.triangles)

    @cached_property
    def defects(self) -> tuple[np.ndarray, Array]:
        """The inner points (m,), and what the angles round each lack to a full turn, in radians (m,)."""
        corner = self.points.T.take(self.triangles.T, axis=1).swapaxes(0, 1)
        total = np.zeros(len(self.points))
        for k in range(3):
            a, b = corner[(k + 1) % 3] - corner[k], corner[(k + 2) % 3] - corner[k]
            across = np.cross(a, b, axis=0)
            inner = np.arctan2(np.sqrt((across**2).sum(axis=0)), (a * b).sum(axis=0))
            total += np.bincount(self.triangles[:, k], inner, len(self.points))
        within = np.ones(len(self.points), bool)
        within[np.concatenate(self.rings)] = False
        return np.nonzero(within)[0], 2 * np.pi - total[within]


def cut_to_lie_flat(points: Array, triangles: np.ndarray, seam: np.ndarray | None) -> tuple[np.ndarray, Sheet]:
    """Keys, in numbers of the whole, of the edges along which a face must be cut to lie flat; and the face, cut so.

    ``seam`` are points along which it is cut, where that is known.
    """
    none = np.zeros(0, np.int64)
    if seam is not None:
        cut = path_keys(seam, len(points))
        return cut, Sheet.opened(points, triangles, cut)
    used, local = numbered_anew(triangles, len(points))
    local, old = opened(local, len(used), none)
    whole = Sheet(points[used[old]], local, used[old])
    if len(triangles) == 1:
        return none, whole
    cut = cuts_to_disc(whole.points, local, whole.rings)
    cut = np.union1d(cut, _apex_cuts(whole, cut))
    if not len(cut):
        return none, whole
    pairs = np.stack([cut // len(old), cut % len(old)], axis=1)
    keys = edge_keys(whole.old[pairs], len(points))
    return keys, Sheet.opened(points, triangles, keys)


def _apex_cuts(whole: Sheet, cut: np.ndarray) -> np.ndarray:
    """Keys of edges from the outline to the few tips, such as that of a cone, but for which a sheet could lie flat."""
    points, triangles = whole.points, whole.triangles
    sheet = Sheet.opened(points, triangles, cut) if len(cut) else whole
    old = sheet.old if len(cut) else np.arange(len(points))
    inner, defects = sheet.defects
    defects = np.abs(defects)
    tips = inner[defects > APEX]
    if not 0 < len(tips) <= MOST_TIPS or (defects[defects <= APEX] > ROUND).any():
        return np.zeros(0, np.int64)
    keys: list[np.ndarray] = []
    for tip in tips.tolist():
        now, was = opened(triangles, len(points), np.union1d(cut, np.concatenate(keys)) if keys else cut)
        weights = graph(points[was], now)
        start = np.nonzero(was == old[tip])[0]
        keys.append(path_keys(was[shortest_path(weights, start, np.concatenate(boundary_rings(now)))], len(points)))
    return np.concatenate(keys)


def laid_flat(sheet: Sheet) -> Array | None:
    """The face laid flat (n, 2) in mm where nothing is stretched by that, else None.

    It can be where the angles round every inner point sum up to a full turn, and those of all together too.
    """
    if len(sheet.triangles) > CHARTED:
        return None
    _, defects = sheet.defects
    if np.abs(defects).max(initial=0.0) > ROUND or abs(defects.sum()) > ROUND_IN_ALL:
        return None
    flat = relax(sheet.points, sheet.triangles, most_steps=400, converged=1e-9).points_blank
    stretch = singular_values(Metric.of(sheet.points, sheet.triangles).jacobians(flat)) - 1
    return flat if np.abs(stretch).max() <= ISOMETRIC else None


def chart(points: Array, triangles: np.ndarray) -> Array:
    """A map (n, 2) of a curved face to the plane in mm, without flips."""
    if len(triangles) > CHARTED:
        return first_map(points, triangles)
    return relax(points, triangles, most_steps=12, converged=1e-3).points_blank
