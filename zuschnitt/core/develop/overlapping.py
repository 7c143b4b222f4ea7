"""Where a flat sheet lies over itself, and the shortest cut that takes it apart there.

No triangle is flipped, but a sheet can still come round on itself, as a helical flight of more than one turn does.
Two places that lie on each other are the ends of a net whose links are the edges of the triangles, as strong as they
are long: its minimum cut (Ford and Fulkerson, Maximal flow through a network, 1956) is the shortest cut between.
"""

from __future__ import annotations

import numpy as np
import shapely
from scipy.sparse import coo_matrix, csr_matrix
from scipy.sparse.csgraph import breadth_first_order, dijkstra, maximum_flow

from ..geometry.curves import Array
from ..mesh.opening import edge_keys, half_edges, pairs_across
from ..mesh.plain_patches import covers_once
from ..mesh.triangles import boundary_rings
from ..plane.region import Region

FINENESS = 1000
"""Into so many steps the length of an edge of mean length is divided, as the flow counts in whole numbers."""

REACH = 0.3
"""How much of the way between two such places belongs to each, so that not one of them alone is cut out."""


def lies_over_itself(points_blank: Array, triangles: np.ndarray) -> bool:
    """Whether a flat sheet covers some place more than once; where it only touches itself, it does not."""
    if covers_once(points_blank, triangles):
        return False
    rings = [points_blank[ring] for ring in boundary_rings(triangles)]
    return bool(len(_on_each_other(points_blank, triangles))) or not Region(tuple(rings)).touches_only


def separating(points_form: Array, points_blank: Array, triangles: np.ndarray) -> np.ndarray:
    """Keys of the edges, as ``edge_keys`` makes them, of the shortest cut between two places that lie on each other.

    There are none where nothing does.
    """
    pairs = _on_each_other(points_blank, triangles)
    if not len(pairs):
        return np.zeros(0, np.int64)
    count, t = len(points_form), len(triangles)
    one, other = pairs_across(triangles, count)
    ends = half_edges(triangles)[one]
    length = np.linalg.norm(points_form[ends[:, 0]] - points_form[ends[:, 1]], axis=1)
    one, other = one % t, other % t
    links = csr_matrix(coo_matrix((np.ones(2 * len(one)), (np.r_[one, other], np.r_[other, one])), (t, t)))
    sources, sinks = _two_ends(_most_central(pairs, links), links)
    strength = np.maximum(1, np.round(length / length.mean() * FINENESS)).astype(np.int32)
    endless = np.int32(2**30)
    rows = np.r_[one, other, np.full(len(sources), t), sinks]
    columns = np.r_[other, one, sources, np.full(len(sinks), t + 1)]
    data = np.r_[strength, strength, np.full(len(sources) + len(sinks), endless)]
    net = csr_matrix(coo_matrix((data, (rows, columns)), (t + 2, t + 2)))
    left = net - maximum_flow(net, t, t + 1).flow
    left.data = np.maximum(left.data, 0)
    left.eliminate_zeros()
    here = np.zeros(t + 2, bool)
    here[breadth_first_order(left, t, return_predecessors=False)] = True
    return np.unique(edge_keys(ends[here[one] != here[other]], count))


def _on_each_other(points: Array, triangles: np.ndarray) -> np.ndarray:
    """Pairs (k, 2) of triangles without a common point that share more than a touch.

    First those of which one holds the middle of the other; only where there are none, all that overlap at all.
    """
    shapes = shapely.polygons(points[np.c_[triangles, triangles[:, 0]]])
    tree = shapely.STRtree(shapes)
    pairs = _apart(tree.query(shapely.points(points[triangles].mean(axis=1)), predicate="within").T, triangles)
    if len(pairs):
        return pairs
    pairs = _apart(tree.query(shapes, predicate="intersects").T, triangles)
    common = shapely.area(shapely.intersection(shapes[pairs[:, 0]], shapes[pairs[:, 1]]))
    return pairs[common > 1e-3 * np.minimum(*shapely.area(shapes)[pairs].T)]


def _apart(pairs: np.ndarray, triangles: np.ndarray) -> np.ndarray:
    """Of pairs (k, 2) of triangles those that have no common point, each once, the lower number first."""
    pairs = np.unique(np.sort(pairs, axis=1), axis=0)
    a, b = triangles[pairs[:, 0]], triangles[pairs[:, 1]]
    return pairs[~(a[:, :, None] == b[:, None, :]).any(axis=(1, 2))]


def _most_central(pairs: np.ndarray, links: csr_matrix) -> np.ndarray:
    """Of pairs (k, 2) the one that lies most in the middle of the sheet, so that cutting there leaves like halves."""
    end = breadth_first_order(links, 0, return_predecessors=False)[-1]  # as far from a first triangle as any
    steps = dijkstra(links, indices=end, unweighted=True)
    middles = steps[pairs].mean(axis=1)
    return pairs[int(np.argmin(np.abs(middles - steps.max() / 2)))]


def _two_ends(pair: np.ndarray, links: csr_matrix) -> tuple[np.ndarray, np.ndarray]:
    """Two sets of triangles that are to be separated: round both of a pair that lie on each other."""
    steps = dijkstra(links, indices=pair, unweighted=True)
    reach = REACH * steps[0, pair[1]]
    return np.nonzero(steps[0] <= reach)[0], np.nonzero(steps[1] <= reach)[0]
