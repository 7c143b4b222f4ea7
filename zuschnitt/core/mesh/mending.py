"""Mending triangles: welded, turned to one side, without what has no area. All that is done is said."""

from __future__ import annotations

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from ..errors import Refused
from ..geometry.curves import Array
from ..record import record
from ..wording import Fault, counted, place
from .crossing import crossing
from .opening import edge_keys, grouped, half_edges, numbered_anew, pairs_across

SAME = 1e-7
"""Points nearer than this part of the form's size are one."""
GAP = 2e-4
"""Points of open edges nearer than this part of the form's size are welded."""
MIXING = np.uint64(0x9E3779B97F4A7C15)
"""Odd, its bits spread well: 2**64 over the golden ratio (Knuth, The Art of Computer Programming 3, 6.4)."""
MOST_CHECKED = 500_000
"""Larger meshes are not searched for triangles that pass through each other."""


@record
class Mended:
    """``points`` (n, 3), ``triangles`` (t, 3) all turned to the outer side where there is one, ``origin`` (t,)
    the triangle of the file each comes from."""

    points: Array
    triangles: np.ndarray
    origin: np.ndarray
    messages: tuple[str, ...]


def mended(points: Array, triangles: np.ndarray, name: str) -> Mended:
    """Raises Refused for a mesh without area, or a one-sided one."""
    messages: list[str] = []
    size = float(np.linalg.norm(points.max(axis=0) - points.min(axis=0)))
    points, triangles = _once(points, triangles)
    points, triangles = _merged(points, triangles, SAME * size, np.arange(len(points)))
    origin = np.arange(len(triangles))
    triangles, origin, flat = _with_area(points, triangles, origin, size)
    if not len(triangles):
        raise Refused(f"{name} has no triangle with an area; export it again.")
    rim = _rim(triangles, len(points))
    if len(rim):
        before = _used(triangles)
        points, triangles = _merged(points, triangles, GAP * size, rim)
        welded = before - _used(triangles)
        if welded:
            messages.append(f"Gaps were welded: {counted(welded, 'point')} within {GAP * size:.2g} mm of others.")
            triangles, origin, more = _with_area(points, triangles, origin, size)
            flat += more
    if flat:
        messages.append(f"{counted(flat, 'triangle')} without area left out.")
    kept = _different(triangles)
    if len(kept) < len(triangles):
        messages.append(f"{counted(len(triangles) - len(kept), 'triangle')} lying upon others left out.")
        triangles, origin = triangles[kept], origin[kept]
    triangles, turned = _turned_alike(points, triangles, name)
    if turned:
        messages.append(f"{counted(turned, 'triangle')} facing the other way turned over.")
    _, _, count = grouped(edge_keys(half_edges(triangles), len(points)))
    if crowded := int((count > 2).sum()):
        messages.append(
            f"At {counted(crowded, 'edge')} more than two triangles meet; faces end there, and join only in pairs."
        )
    messages.extend(_crossings_said(points, triangles))
    used, triangles = numbered_anew(triangles, len(points))
    return Mended(points[used], triangles, origin, tuple(messages))


def _crossings_said(points: Array, triangles: np.ndarray) -> list[str]:
    """Where a body passes through itself; several bodies may well stand in each other."""
    if len(triangles) > MOST_CHECKED:
        return []
    through, places = crossing(points, triangles)
    if not len(places):
        return []
    t = len(triangles)
    one, other = pairs_across(triangles, len(points))
    joined = coo_matrix((np.ones(len(one), np.int8), (one % t, other % t)), (t, t))
    body = connected_components(joined, directed=False)[1][through]
    places = places[body[:, 0] == body[:, 1]]
    if not len(places):
        return []
    return [
        Fault(
            f"At {counted(len(places), 'place')} triangles pass through each other, the first near {place(places[0])}; "
            "faces there are developed as if they did not, so mend the mesh where it was made."
        )
    ]


def _alike(columns: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """An order (n,) in which columns (k, n) that are alike stand together, and where in it others begin (n,)."""
    mixed = np.zeros(columns.shape[1], np.uint64)
    for column in columns.astype(float) + 0:  # nought has one sign
        mixed = (mixed ^ column.view(np.uint64)) * MIXING
        mixed ^= mixed >> np.uint64(32)
    order = np.argsort(mixed)  # one number for each column takes half as long to sort as all that stands in it
    ranked, key = columns[:, order], mixed[order]
    differs = (ranked[:, 1:] != ranked[:, :-1]).any(axis=0)
    if (differs & (key[1:] == key[:-1])).any():
        order = np.lexsort(columns)
        ranked = columns[:, order]
        differs = (ranked[:, 1:] != ranked[:, :-1]).any(axis=0)
    return order, np.r_[True, differs]


def _different(triangles: np.ndarray) -> np.ndarray:
    """The first of all triangles that have the same corners, in order."""
    order, begins = _alike(np.sort(triangles, axis=1).T)
    return np.sort(np.minimum.reduceat(order, np.nonzero(begins)[0]))


def _once(points: Array, triangles: np.ndarray) -> tuple[Array, np.ndarray]:
    """With points that are the very same made one: in an STL that is nearly all there is to weld."""
    order, begins = _alike(points.T)
    first = np.minimum.reduceat(order, np.nonzero(begins)[0])
    number = np.empty(len(points), np.int64)
    number[order] = np.cumsum(begins) - 1
    rank = np.argsort(first)  # in the order in which the file has them
    place = np.empty_like(rank)
    place[rank] = np.arange(len(rank))
    return points[first[rank]], place[number[triangles]]


def _used(triangles: np.ndarray) -> int:
    """By how many points they are."""
    return int(np.count_nonzero(np.bincount(triangles.ravel())))


def _merged(points: Array, triangles: np.ndarray, reach: float, among: np.ndarray) -> tuple[Array, np.ndarray]:
    """With points of ``among`` that lie within ``reach`` mm of each other made one."""
    from scipy.spatial import cKDTree

    pairs = among[cKDTree(points[among]).query_pairs(max(reach, 1e-300), output_type="ndarray")]
    if not len(pairs):
        return points, triangles
    joined = coo_matrix((np.ones(len(pairs), np.int8), tuple(pairs.T)), (len(points),) * 2)
    _, label = connected_components(joined, directed=False)
    _, first = np.unique(label, return_index=True)
    return points[first], label[triangles]


def _with_area(points: Array, triangles: np.ndarray, origin: np.ndarray, size: float):
    """Without triangles that are a point or a line, and how many those were."""
    a, b, c = (points[triangles[:, k]] for k in range(3))
    longest = np.sqrt(np.maximum(np.maximum(((b - a) ** 2).sum(1), ((c - a) ** 2).sum(1)), ((c - b) ** 2).sum(1)))
    height = np.linalg.norm(np.cross(b - a, c - a), axis=1) / np.maximum(longest, 1e-300)
    keep = height > 1e-9 * size
    return triangles[keep], origin[keep], int((~keep).sum())


def _rim(triangles: np.ndarray, count: int) -> np.ndarray:
    """Points of edges at which only one triangle lies."""
    edges = half_edges(triangles)
    order, begin, times = grouped(edge_keys(edges, count))
    return np.unique(edges[order[begin[times == 1]]])


def _turned_alike(points: Array, triangles: np.ndarray, name: str) -> tuple[np.ndarray, int]:
    """All triangles of a sheet turned to one side, closed ones outwards; and how many had to be turned.

    Each triangle stands twice in a graph, as it is and turned over; what agrees hangs together.
    """
    t = len(triangles)
    one, other = pairs_across(triangles, len(points))
    a, b = one % t, other % t
    alike = triangles[a, one // t] == triangles[b, (other // t + 1) % 3]
    swap = np.where(alike, 0, t)
    joined = coo_matrix(
        (np.ones(2 * len(a), np.int8), (np.r_[a, a + t], np.r_[b + swap, b + t - swap])), (2 * t, 2 * t)
    )
    _, label = connected_components(joined, directed=False)
    as_is, over = label[:t], label[t:]
    if (as_is == over).any():
        raise Refused(
            f"{name} has a sheet with only one side, like a Moebius strip, so it has no outer side; "
            "cut it across where it was made."
        )
    # of the two ways round take the one that turns fewer triangles over
    sheet = np.minimum(as_is, over)
    flip = as_is != sheet
    _, sheet = np.unique(sheet, return_inverse=True)
    total, flipped = np.bincount(sheet), np.bincount(sheet, flip)
    flip ^= (flipped > total / 2)[sheet]
    result = np.where(flip[:, None], triangles[:, [0, 2, 1]], triangles)
    # closed sheets: outwards by their volume
    order, begin, times = grouped(edge_keys(half_edges(result), len(points)))
    is_open = np.zeros(len(total), bool)
    is_open[sheet[order[begin[times == 1]] % t]] = True
    corner = points[result] - points.mean(axis=0)
    volume = np.bincount(sheet, np.einsum("ij,ij->i", corner[:, 0], np.cross(corner[:, 1], corner[:, 2])))
    inward = (~is_open & (volume < 0))[sheet]
    result = np.where(inward[:, None], result[:, [0, 2, 1]], result)
    changed = flip ^ inward
    # a closed body that was wholly inside out is no inconsistency
    whole = np.bincount(sheet, changed) == total
    return result, int((changed & ~whole[sheet]).sum())
