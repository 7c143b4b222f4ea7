"""Triangles laid flat each by itself: the stiffness of a membrane, against cotangents, and what it costs to factorise."""

from __future__ import annotations

import numpy as np
import pytest

from zuschnitt.core.flatten.metric import Metric
from zuschnitt.core.flatten.pinned import Pinned
from zuschnitt.core.mesh.opening import half_edges


def net(n, skew=0.0):
    """A net of n x n points on a bent strip, its triangles right-angled where it is not skewed."""
    x, y = (each.ravel() for each in np.meshgrid(np.linspace(0, 4, n), np.linspace(0, 4, n), indexing="ij"))
    x = x + skew * y
    index = np.arange(n * n).reshape(n, n)
    a, b, c, d = index[:-1, :-1], index[1:, :-1], index[1:, 1:], index[:-1, 1:]
    triangles = np.concatenate([np.stack(t, axis=2).reshape(-1, 3) for t in ([a, b, c], [a, c, d])])
    return np.stack([3 * np.sin(x / 3), y, 3 * np.cos(x / 3)], axis=1), triangles


@pytest.mark.parametrize("skew", [0.0, 0.3])
def test_the_stiffness_is_made_of_cotangents_and_has_an_entry_for_every_edge(skew):
    points, triangles = net(9, skew)
    laplacian = Metric.of(points, triangles).laplacian()
    expected = np.zeros((len(points), len(points)))
    for triangle in triangles.tolist():
        for k in range(3):
            i, j, opposite = (triangle[(k + step) % 3] for step in range(3))
            u, v = points[i] - points[opposite], points[j] - points[opposite]
            half = (u @ v) / np.linalg.norm(np.cross(u, v)) / 2
            expected[[i, j], [j, i]] -= half
            expected[[i, j], [i, j]] += half
    assert laplacian.toarray() == pytest.approx(expected, abs=1e-12)
    edges = {tuple(sorted(pair)) for pair in half_edges(triangles).tolist()}
    assert laplacian.nnz == len(points) + 2 * len(edges)


def test_right_angles_make_the_order_of_elimination_no_worse():
    """Entries that are zero were left out of it, and Newton's method, which has them, took seven times as long."""
    plain, skewed = (Metric.of(*net(60, skew)).laplacian() for skew in (0.0, 0.3))
    assert Pinned.of(plain).free.factor.L.nnz <= 1.05 * Pinned.of(skewed).free.factor.L.nnz
