"""Cutting triangles open along their edges: which corners stay together, and where to cut a closed mesh."""

from __future__ import annotations

import numpy as np
from scipy.sparse import coo_matrix, csr_matrix
from scipy.sparse.csgraph import breadth_first_order, connected_components, dijkstra, minimum_spanning_tree

from ..errors import CannotBeDone
from ..geometry.curves import Array
from .triangles import boundary_rings

HOLE = -1.8 * np.pi
"""A ring whose boundary turns by less than this (-2 pi in the plane) is a hole; others need a cut."""


def half_edges(triangles: np.ndarray) -> np.ndarray:
    """From and to (3t, 2): the edges after corner 0 of all triangles, then after 1, then after 2."""
    return np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]])


def edge_keys(pairs: np.ndarray, count: int) -> np.ndarray:
    """One number (e,) for each undirected pair (e, 2) of points among ``count``."""
    one, other = pairs.T
    return np.minimum(one, other).astype(np.int64) * count + np.maximum(one, other)


def distinct(keys: np.ndarray) -> np.ndarray:
    """The different ones, in order; sorting is far quicker here than the hashing of ``np.unique``."""
    ranked = np.sort(keys)
    return ranked[np.r_[True, ranked[1:] != ranked[:-1]]] if len(ranked) else ranked


def among(keys: np.ndarray, known: np.ndarray) -> np.ndarray:
    """Which (n,) of the keys are among those ``known``, which are in order; quicker for few than ``np.isin``."""
    if not len(known):
        return np.zeros(len(keys), bool)
    place = np.searchsorted(known, keys)
    return known[np.minimum(place, len(known) - 1)] == keys


def grouped(keys: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Places (e,) of the keys in order, where in that each different one begins, and how often it is there."""
    order = np.argsort(keys)
    ranked = keys[order]
    begin = np.nonzero(np.r_[True, ranked[1:] != ranked[:-1]])[0]
    return order, begin, np.diff(np.r_[begin, len(ranked)])


def pairs_across(triangles: np.ndarray, count: int) -> tuple[np.ndarray, np.ndarray]:
    """Half-edges (m,), (m,) that lie against each other, where exactly two triangles meet."""
    order, begin, times = grouped(edge_keys(half_edges(triangles), count))
    begin = begin[times == 2]
    one, other = order[begin], order[begin + 1]
    return np.minimum(one, other), np.maximum(one, other)


def numbered_anew(triangles: np.ndarray, count: int) -> tuple[np.ndarray, np.ndarray]:
    """Which of so many points the triangles (t, 3) use (u,), in order, and the triangles over these alone."""
    if 3 * len(triangles) < count:  # a small part of them
        found, number = np.unique(triangles, return_inverse=True)
        return found, number.reshape(-1, 3)
    used = np.zeros(count, bool)
    used[triangles] = True
    number = np.cumsum(used) - 1
    return np.nonzero(used)[0], number[triangles]


def opened(triangles: np.ndarray, count: int, cut: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The triangles (t, 3) cut open along the edges with the keys ``cut``, and the old number of each point.

    Corners stay together where triangles meet across an edge that is not cut; so sheets that only touch
    in a point come apart as well.
    """
    t = len(triangles)
    if t == 1:  # nothing to open
        old, renumbered = np.unique(triangles, return_inverse=True)
        return renumbered.reshape(1, 3), old
    one, other = pairs_across(triangles, count)
    keys = edge_keys(half_edges(triangles)[one], count)
    keep = ~np.isin(keys, cut)
    one, other = one[keep], other[keep]
    here, there = one % t, other % t
    start, end = one // t, (one // t + 1) % 3
    # against each other: the start of one half-edge is the end of the other, if the sides agree
    swapped = triangles[there, other // t] == triangles[here, end]
    first = np.where(swapped, (other // t + 1) % 3, other // t)
    second = np.where(swapped, other // t, (other // t + 1) % 3)
    a = np.r_[start * t + here, end * t + here]
    b = np.r_[first * t + there, second * t + there]
    joined = coo_matrix((np.ones(len(a), np.int8), (a, b)), (3 * t, 3 * t))
    _, label = connected_components(joined, directed=False)
    corners = triangles.T.ravel()
    old = np.zeros(int(label.max()) + 1, int)
    old[label] = corners
    # points in their old order, so that what is not cut keeps its sequence
    rank = np.argsort(old, kind="stable")
    renumber = np.empty_like(rank)
    renumber[rank] = np.arange(len(rank))
    return renumber[label].reshape(3, t).T, old[rank]


def graph(points: Array, triangles: np.ndarray) -> csr_matrix:
    """The edges of the triangles as a graph weighted by their length in mm."""
    pairs = half_edges(triangles)
    keys = distinct(edge_keys(pairs, len(points)))
    a, b = keys // len(points), keys % len(points)
    length = np.maximum(np.linalg.norm(points[a] - points[b], axis=1), 1e-12)
    made = coo_matrix((np.r_[length, length], (np.r_[a, b], np.r_[b, a])), (len(points), len(points)))
    return made.tocsr()


def shortest_path(weights: csr_matrix, starts: np.ndarray, ends: np.ndarray) -> np.ndarray:
    """Points of the shortest way along edges from one of ``starts`` to one of ``ends``."""
    distance, before, _ = dijkstra(weights, directed=False, indices=starts, min_only=True, return_predecessors=True)
    end = int(ends[np.argmin(distance[ends])])
    path = [end]
    while before[path[-1]] >= 0:
        path.append(int(before[path[-1]]))
    return np.array(path[::-1])


def path_keys(path: np.ndarray, count: int) -> np.ndarray:
    return edge_keys(np.stack([path[:-1], path[1:]], axis=1), count)


def turning(points: Array, triangles: np.ndarray, ring: np.ndarray) -> float:
    """The total geodesic turning of a boundary ring in radians: 2 pi round a plane disc, -2 pi round a hole."""
    corner = points[triangles]
    member = np.isin(triangles, ring)
    angle = 0.0
    for k in range(3):
        a, b = corner[:, (k + 1) % 3] - corner[:, k], corner[:, (k + 2) % 3] - corner[:, k]
        inner = np.arctan2(np.linalg.norm(np.cross(a, b), axis=1), np.einsum("ij,ij->i", a, b))
        angle += float(inner[member[:, k]].sum())
    return float(np.pi * len(ring) - angle)


def characteristic(triangles: np.ndarray) -> int:
    """Points minus edges plus triangles: 2 for a ball, 1 for a disc, 0 for a ring or a torus."""
    edges = distinct(edge_keys(half_edges(triangles), int(triangles.max()) + 1))
    return len(distinct(triangles.ravel())) - len(edges) + len(triangles)


def cuts_to_disc(points: Array, triangles: np.ndarray, rings: list[np.ndarray] | None = None) -> np.ndarray:
    """Keys of edges along which a connected mesh must be cut to lie flat; short, and none where none is needed.

    A tube is cut from rim to rim, a ball between two far points, handles along a tree-cotree cut (Eppstein,
    Dynamic generators of topologically embedded graphs, 2003). Holes stay holes. ``rings`` are those round the
    triangles where these are ``opened`` already: those that only touch in a point then have a point each there.
    """
    n = len(points)
    apart, rings = rings is not None, boundary_rings(triangles) if rings is None else rings
    cut = _handle_cuts(points, triangles, len(rings))
    if len(cut) == 0 and not rings:
        weights = graph(points, triangles)
        ends = far_points(weights)
        return path_keys(shortest_path(weights, ends[:1], ends[1:]), n)
    fewest = len(triangles)
    while True:
        if apart and not len(cut):
            now, old = triangles, np.arange(n)
        else:
            now, old = opened(triangles, n, cut)
            rings = boundary_rings(now)
        if len(rings) < 2 or characteristic(now) == len(rings):  # discs, if they hung together at points only
            return cut
        if len(rings) >= fewest:
            raise CannotBeDone("The faces' outlines touch or cross themselves, so they cannot be opened; pick others.")
        fewest = len(rings)
        turns = np.array([turning(points[old], now, ring) for ring in rings])
        outer = int(turns.argmax())
        needy = [i for i in range(len(rings)) if i != outer and turns[i] > HOLE]
        if not needy:
            return cut
        ring = rings[needy[0]]
        others = np.concatenate([r for i, r in enumerate(rings) if i != needy[0]])
        path = shortest_path(graph(points[old], now), ring, others)
        cut = np.union1d(cut, path_keys(old[path], n))


def far_points(weights: csr_matrix) -> np.ndarray:
    """Two points (2,) far from each other along the edges."""
    first = int(np.argmax(dijkstra(weights, directed=False, indices=0)))
    return np.array([first, int(np.argmax(dijkstra(weights, directed=False, indices=first)))])


def _handle_cuts(points: Array, triangles: np.ndarray, rings: int) -> np.ndarray:
    """Keys of edges that open the handles of a mesh that has so many ``rings``; empty where it has none."""
    n, t = len(points), len(triangles)
    if 2 - rings - characteristic(triangles) == 0:
        return np.zeros(0, np.int64)
    one, other = pairs_across(triangles, n)
    keys = edge_keys(half_edges(triangles)[one], n)
    length = np.linalg.norm(points[keys // n] - points[keys % n], axis=1)
    # a tree of edges grown from the first point, short edges first, then a tree of triangles off it
    spanning = minimum_spanning_tree(graph(points, triangles)).tocoo()
    tree = edge_keys(np.stack([spanning.row, spanning.col], axis=1), n)
    free = ~np.isin(keys, tree)
    across = coo_matrix((1 / np.maximum(length[free], 1e-12), (one[free] % t, other[free] % t)), (t, t)).tocsr()
    crossed = minimum_spanning_tree(across).tocoo()
    dual = {(min(a, b), max(a, b)) for a, b in zip(crossed.row.tolist(), crossed.col.tolist(), strict=True)}
    left = [
        i for i in np.nonzero(free)[0] if (min(one[i] % t, other[i] % t), max(one[i] % t, other[i] % t)) not in dual
    ]
    # each edge left over closes a loop with the tree: the loops are the cut
    rooted = spanning.tocsr()
    _, before = breadth_first_order(rooted + rooted.T, 0, directed=False)
    cut: set[int] = set()
    for i in left:
        a, b = int(keys[i] // n), int(keys[i] % n)
        cut ^= {int(keys[i])}
        for here in (a, b):
            end = here
            while before[end] >= 0:
                cut ^= {min(end, int(before[end])) * n + max(end, int(before[end]))}
                end = int(before[end])
    return np.array(sorted(cut), np.int64)
