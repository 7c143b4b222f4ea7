"""In which order contours are cut: what lies within others first, and a short way between them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..geometry.curves import Array
from ..plane.containing import parents
from ..plane.contour import Contour

FIRST = ("REFERENCE", "BEND_UP", "BEND_DOWN", "TEXT", "MARK", "RELIEF")
"""These layers come before all cuts: a loose part cannot be marked. Bends keep their order, and so their numbers."""
MOST_IMPROVED = 600
"""Of more contours than this the way is that to the nearest one each time, not improved any more."""


def ordered(contours: Sequence[Contour]) -> list[Contour]:
    """Contours in the order in which a machine runs them; each keeps its direction and its beginning."""
    first = sorted((c for c in contours if c.layer in FIRST), key=lambda c: c.layer == "RELIEF")
    rest = [c for c in contours if c.layer not in FIRST]
    closed = [c for c in rest if c.closed]
    order = cut_order(closed)
    opened = [c for c in rest if not c.closed]
    return [*first, *opened, *(closed[k] for k in order)]


def cut_order(closed: Sequence[Contour], above: np.ndarray | None = None) -> list[int]:
    """The places of closed contours in the order of the cuts, from the origin on.

    ``above`` (n,) are the places of those they lie within, where that is known better than they tell it.
    """
    above = parents(closed) if above is None else above
    starts = np.array([contour.points[0] for contour in closed]).reshape(-1, 2)
    within: dict[int, list[int]] = {}
    for k, parent in enumerate(above.tolist()):
        within.setdefault(parent, []).append(k)
    found: list[int] = []
    here = np.zeros(2)

    def run(parts: list[int]) -> None:
        nonlocal here
        for k in _short_way(starts[parts], here):
            run(within.get(parts[k], []))
            found.append(parts[k])
            here = starts[parts[k]]

    run(within.get(-1, []))
    return found


def _short_way(points: Array, at: Array) -> list[int]:
    """An order of points (n, 2): each time the nearest, then turned round piece by piece as long as that is shorter."""
    from scipy.spatial import cKDTree

    if len(points) < 2:
        return list(range(len(points)))
    tree, left, order = cKDTree(points), np.ones(len(points), bool), []
    for _ in range(len(points)):
        count = 8
        while True:  # the nearest that is left, looked for ever further
            _, near = tree.query(at, k=min(count, len(points)))
            there = [k for k in np.atleast_1d(near).tolist() if k < len(points) and left[k]]
            if there or count >= len(points):
                break
            count *= 4
        order.append(there[0])
        left[there[0]] = False
        at = points[there[0]]
    return _turned(points, order) if len(points) <= MOST_IMPROVED else order


def _turned(points: Array, order: list[int]) -> list[int]:
    """Runs of an open way turned round where that shortens it (2-opt; Croes, Operations Research 6, 1958)."""
    way = np.array(order)
    for _ in range(4):
        better = False
        for i in range(len(way) - 2):
            a, b = points[way[i]], points[way[i + 1]]
            after = points[way[i + 2 :]]
            now = np.linalg.norm(a - b) + np.append(np.linalg.norm(np.diff(after, axis=0), axis=1), 0.0)
            new = np.linalg.norm(a - after, axis=1)
            new[:-1] += np.linalg.norm(b - after[1:], axis=1)
            k = int(np.argmin(new - now))
            if new[k] - now[k] < -1e-9:
                way[i + 1 : i + 3 + k] = way[i + 1 : i + 3 + k][::-1]
                better = True
        if not better:
            break
    return way.tolist()
