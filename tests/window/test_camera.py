"""Looking at the form: projection, rays, silhouettes."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zuschnitt.core.form.build import turned_body
from zuschnitt.window.stages.camera import VIEWS, Camera, hit, silhouette

SIZE = (470.0, 640.0)
ANGLES = st.floats(-180, 180), st.floats(-89, 89)


@settings(max_examples=40, deadline=None)
@given(*ANGLES, st.floats(0.05, 20), st.floats(0, 470), st.floats(0, 640))
def test_what_lies_on_a_ray_is_seen_at_its_pixel(azimuth, elevation, scale, x, y):
    camera = Camera(np.array([3.0, -4, 5]), azimuth, elevation, scale)
    origin, direction = camera.ray(x, y, SIZE)
    points = origin + np.outer([-50, 0, 70], direction)
    assert np.abs(camera.project(points, SIZE) - [x, y]).max() < 1e-6
    assert np.abs(camera.axes @ camera.axes.T - np.eye(3)).max() < 1e-12
    assert np.linalg.det(camera.axes) == pytest.approx(1)


@settings(max_examples=20, deadline=None)
@given(*ANGLES, st.floats(0.2, 5), st.floats(0, 470), st.floats(0, 640))
def test_zooming_keeps_what_is_under_the_mouse(azimuth, elevation, factor, x, y):
    camera = Camera(np.array([3.0, -4, 5]), azimuth, elevation, 2.0)
    under, _ = camera.ray(x, y, SIZE)
    assert camera.zoomed(factor, x, y, SIZE).project(under, SIZE)[0] == pytest.approx([x, y], abs=1e-6)


@pytest.mark.parametrize("view", VIEWS)
def test_a_fitted_form_is_all_in_sight(view):
    points = turned_body([(60, 0), (200, 420), (200, 640)]).meshes[0].points
    pixels = Camera(np.zeros(3)).seen_from(view).fitted(points, SIZE).project(points, SIZE)
    assert (pixels > 0).all() and (pixels < SIZE).all()
    assert (np.ptp(pixels, axis=0) / SIZE).max() == pytest.approx(0.82, abs=1e-6)


def test_front_view_looks_along_y_and_top_from_above():
    camera = Camera(np.zeros(3)).seen_from("front")
    assert camera.project(np.array([[10, 0, 20]]), SIZE)[0] == pytest.approx([245, 300])
    camera = camera.seen_from("top")
    assert camera.project(np.array([[10, 20, 0]]), SIZE)[0] == pytest.approx([245, 300])


def test_rays_hit_the_nearest_triangle():
    corners = np.array([[[0, 0, z], [9, 0, z], [0, 9, z]] for z in (0.0, 5.0)])
    index, point = hit(np.array([1, 1, 50.0]), np.array([0, 0, -1.0]), corners)
    assert index == 1 and point == pytest.approx([1, 1, 5])
    assert hit(np.array([8, 8, 50.0]), np.array([0, 0, -1.0]), corners) is None


def test_the_silhouette_of_a_tube_is_its_two_sides():
    mesh = turned_body([(50, 0), (50, 100)]).meshes[0]
    ends = silhouette(mesh.points, mesh.normals, mesh.triangles, np.array([0, -1.0, 0]))
    assert len(ends) > 4
    assert np.abs(np.abs(ends[..., 0]) - 50).max() < 0.2 and np.abs(ends[..., 1]).max() < 2
