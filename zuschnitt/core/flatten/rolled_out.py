"""A start for sheets that turn far: how each triangle is turned when the sheet is rolled out from triangle to triangle.

Along a tree over the triangles each is laid against the one before it. What does not close round the points of the
sheet, its curvature, is spread by least squares over all edges; one global step makes a map of the turns (the angles
as unknowns are those of Springborn, Schröder and Pinkall, Conformal equivalence of triangle meshes, 2008, section 6).
The plane may be covered more than once, as a helical flight covers it.
"""

from __future__ import annotations

import numpy as np
from scipy import sparse
from scipy.sparse.csgraph import breadth_first_order

from ..geometry.curves import Array
from ..mesh.opening import half_edges, pairs_across
from ..mesh.triangles import signed_double_areas
from .keeping import turns
from .metric import Metric
from .pinned import Pinned

MENDS = 5
"""How many global steps more are tried where a few triangles are flipped."""


def rolled_out(points_form: Array, triangles: np.ndarray, metric: Metric, factor: Pinned) -> Array | None:
    """A map (n, 2) of a disc-like mesh without flipped triangles; None where rolling out gives none."""
    one, other, across = _transport(points_form, triangles)
    t = len(triangles)
    turn = _along_tree(one, other, across, t)
    left = turn[other] - turn[one] - across
    left = (left + np.pi) % (2 * np.pi) - np.pi
    wanted = turn[other] - turn[one] - left
    k = len(one)
    step = sparse.csr_matrix(
        (np.tile([-1.0, 1.0], k), (np.repeat(np.arange(k), 2), np.stack([one, other], axis=1).ravel())), (k, t)
    )
    if t > 1:
        turn = Pinned.of((step.T @ step).tocsc()).solve((step.T @ wanted)[:, None])[:, 0]
    return mended(laid(metric, factor, np.cos(turn), np.sin(turn)), metric, factor, MENDS)


def mended(points: Array, metric: Metric, factor: Pinned, most: int) -> Array | None:
    """The map (n, 2) once no triangle is flipped in it, after at most so many global steps; None where some stay so."""
    for turn in range(most + 1):
        if (signed_double_areas(points, metric.triangles) > 0).all():
            return points
        if turn < most:
            jacobians = metric.jacobians(points)  # a few are flipped: turned as they are, they come right
            cosine, sine = jacobians[:, 0, 0] + jacobians[:, 1, 1], jacobians[:, 1, 0] - jacobians[:, 0, 1]
            points = laid(metric, factor, cosine, sine)
    return None


def laid(metric: Metric, factor: Pinned, cosine: Array, sine: Array) -> Array:
    """The map (n, 2) whose triangles are as nearly turned by these (t,) as they can be together."""
    return factor.solve(metric.gathered(turns(cosine, sine)))


def _transport(points: Array, triangles: np.ndarray) -> tuple[np.ndarray, np.ndarray, Array]:
    """Triangles that meet (k,), (k,), and by how much the second one's own frame is turned against the first one's."""
    t = len(triangles)
    one, other = pairs_across(triangles, len(points))
    ends = half_edges(triangles)
    angles = _in_own_frames(points, triangles, ends)
    # the same edge, walked the other way in the other triangle
    return one % t, other % t, angles[one] - angles[other] + np.pi


def _in_own_frames(points: Array, triangles: np.ndarray, ends: np.ndarray) -> Array:
    """The angle (3 t,) of each half-edge in its triangle's own frame, whose x runs along its first edge."""
    a, b, c = (points[triangles[:, k]] for k in range(3))
    x_axis = (b - a) / np.linalg.norm(b - a, axis=1, keepdims=True)
    y_axis = c - a - np.einsum("ij,ij->i", c - a, x_axis)[:, None] * x_axis
    y_axis /= np.linalg.norm(y_axis, axis=1, keepdims=True)
    along = (points[ends[:, 1]] - points[ends[:, 0]]).reshape(3, len(triangles), 3)
    return np.arctan2(np.einsum("ktj,tj->kt", along, y_axis), np.einsum("ktj,tj->kt", along, x_axis)).ravel()


def _along_tree(one: np.ndarray, other: np.ndarray, across: Array, count: int) -> Array:
    """How each triangle is turned (t,) against the first one, along a tree of the fewest steps."""
    graph = sparse.csr_matrix((np.ones(2 * len(one)), (np.r_[one, other], np.r_[other, one])), (count, count))
    _, before = breadth_first_order(graph, 0)
    before = np.where(before < 0, np.arange(count), before)
    pairs = np.r_[one * count + other, other * count + one]
    order = np.argsort(pairs)
    steps = np.r_[across, -across][order]
    child = np.nonzero(before != np.arange(count))[0]
    turn = np.zeros(count)
    turn[child] = steps[np.searchsorted(pairs[order], before[child] * count + child)]
    while True:  # sums along the way to the root, which doubles its reach each time
        further = before[before]
        turn = turn + np.where(before != np.arange(count), turn[before], 0.0)
        if (further == before).all():
            return turn
        before = further
