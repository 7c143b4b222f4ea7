"""The contour at which a material reaches its limit: where triangles are divided, and what lies above."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.spatial import Delaunay

from zuschnitt.core.develop.developing import develop
from zuschnitt.core.develop.limit import excess, parted
from zuschnitt.core.form.build import domed_lid
from zuschnitt.core.materials import Material
from zuschnitt.core.mesh.opening import edge_keys, half_edges
from zuschnitt.core.mesh.triangles import signed_double_areas


@pytest.fixture(scope="module")
def sheet():
    points = np.random.default_rng(3).uniform(-1, 1, (400, 2))
    points = np.vstack([points, [[-1, -1], [1, -1], [1, 1], [-1, 1.0]]])
    return points, Delaunay(points).simplices


def test_what_lies_above_a_line_has_its_area(sheet):
    points, triangles = sheet
    made = parted(triangles, points @ [1.0, 0.5] - 0.2)
    areas = np.abs(signed_double_areas(made.at(points), made.triangles)) / 2
    assert areas.sum() == pytest.approx(4)
    # of the square [-1, 1]², x + y / 2 > 0.2 has, for each y, 1 - (0.2 - y / 2) of x
    assert areas[made.above].sum() == pytest.approx(1.6)
    parents = np.bincount(made.parent, areas, len(triangles))
    assert parents == pytest.approx(np.abs(signed_double_areas(points, triangles)) / 2)


def test_a_round_contour_is_closed_and_no_triangle_is_lost(sheet):
    points, triangles = sheet
    made = parted(triangles, 0.36 - (points**2).sum(axis=1))
    every = made.at(points)
    assert set(made.parent.tolist()) == set(range(len(triangles)))
    _, uses = np.unique(edge_keys(half_edges(made.triangles), len(every)), return_counts=True)
    assert uses.max() == 2  # both sides of a divided edge are divided alike
    contour = half_edges(made.triangles[made.above])
    keys, uses = np.unique(edge_keys(contour, len(every)), return_counts=True)
    ends = np.column_stack(np.divmod(keys[uses == 1], len(every))).ravel()
    assert (np.unique(ends, return_counts=True)[1] == 2).all()
    assert np.linalg.norm(every[ends], axis=1) == pytest.approx(np.full(len(ends), 0.6), abs=0.02)


@pytest.mark.parametrize("value", [1.0, -1.0, 0.0])
def test_where_nothing_changes_nothing_is_divided(sheet, value):
    points, triangles = sheet
    made = parted(triangles, np.full(len(points), value))
    assert len(made.between) == 0 and sorted(map(tuple, made.triangles)) == sorted(map(tuple, triangles))
    assert (made.above == (value > 0)).all()


def test_the_region_of_a_lid_is_about_what_fails_of_it():
    """Drawn to the contour, it has the area that the verdict tells, and a single triangle that fails is not lost."""
    blank = develop(domed_lid(240, 180, 36, 40, 60), [1], "relaxed")
    weak = blank.judged(Material("weak", 1.0, 0.44, 1.0, 1.0, False, "made up"))
    assert 0.1 < weak.verdict.share < 0.9
    made = parted(weak.mesh.triangles, excess(weak))
    areas = np.abs(signed_double_areas(made.at(weak.mesh.points_blank), made.triangles))
    assert areas[made.above].sum() / areas.sum() == pytest.approx(weak.verdict.share, abs=0.02)
    one = np.zeros(len(weak.mesh.triangles), bool)
    one[7] = True
    stretch = np.where(one[:, None], [[0.02, 0.0]], 0.0)
    alone = replace(weak, mesh=replace(weak.mesh, stretch=stretch), verdict=replace(weak.verdict, failing=one))
    assert (excess(alone)[weak.mesh.triangles[7]] > 0).any()
