"""Edges brought into a triangulation: all are there afterwards, and nothing of the plane is lost or covered twice."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.spatial import Delaunay

from zuschnitt.core.mesh.constrained import with_edges
from zuschnitt.core.mesh.triangles import signed_double_areas


def delaunay(points):
    triangles = Delaunay(points).simplices
    back = signed_double_areas(points, triangles) < 0
    return np.where(back[:, None], triangles[:, [0, 2, 1]], triangles)


def edges_of(triangles):
    return {
        frozenset(edge) for corners in triangles.tolist() for edge in zip(corners, np.roll(corners, -1), strict=True)
    }


@pytest.mark.parametrize("seed", range(6))
def test_a_way_across_the_triangles_becomes_edges(seed):
    """A polyline from left to right, its points among 300 strewn ones, none of which it meets."""
    random = np.random.default_rng(seed)
    x = np.linspace(0.02, 0.98, 9)
    line = np.column_stack([x, 0.5 + 0.4 * np.sin(9 * x) * random.random(9)])
    points = np.vstack([line, random.random((300, 2)), [[0, 0], [1, 0], [1, 1], [0, 1]]])
    wanted = np.column_stack([np.arange(8), np.arange(1, 9)])
    before = delaunay(points)
    after = with_edges(points, before, wanted)
    assert {frozenset(edge) for edge in wanted.tolist()} <= edges_of(after)
    areas = signed_double_areas(points, after)
    assert (areas > 0).all() and len(after) == len(before)
    assert areas.sum() == pytest.approx(2)


def test_an_edge_through_a_point_is_left_out():
    points = np.array([[0, 0], [2, 0], [2, 2], [0, 2], [1, 1]], float)
    before = delaunay(points)
    after = with_edges(points, before, np.array([[0, 2]]))
    assert edges_of(after) == edges_of(before)


def test_needles_keep_their_sides():
    """The teeth of a star are so sharp that Delaunay's triangles leave some of their sides out."""
    angle = 2 * np.pi * np.arange(220) / 220
    corners = np.where(np.arange(220) % 2, 200.0, 150.0)[:, None] * np.column_stack([np.cos(angle), np.sin(angle)])
    parts = np.linspace(0, 1, 5)[:-1]
    ring = (corners[:, None] + parts[:, None] * (np.roll(corners, -1, axis=0) - corners)[:, None]).reshape(-1, 2)
    wanted = np.column_stack([np.arange(len(ring)), np.roll(np.arange(len(ring)), -1)])
    assert {frozenset(edge) for edge in wanted.tolist()} <= edges_of(with_edges(ring, delaunay(ring), wanted))
