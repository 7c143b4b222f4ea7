"""Closed meshes like balls are cut open along a straight seam."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from tests.meshes import form_of
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.mesh.slicing import sliced_ball


def area(points, triangles):
    a, b, c = (points[triangles[:, k]] for k in range(3))
    return np.linalg.norm(np.cross(b - a, c - a), axis=1) / 2


BALLS = {
    "ball": trimesh.creation.icosphere(3, 50),
    "globe": trimesh.creation.uv_sphere(50, count=[24, 24]),  # has points on the plane
    "egg": trimesh.creation.icosphere(4, 50).apply_scale([1, 1, 1.7]),
}


@pytest.mark.parametrize("name", BALLS)
def test_the_seam_is_straight_and_nothing_else_changes(name):
    ball = BALLS[name]
    points, triangles = np.asarray(ball.vertices), np.asarray(ball.faces)
    made = sliced_ball(points, triangles)
    again = trimesh.Trimesh(made.points, made.triangles, process=False)
    assert again.is_watertight and again.is_winding_consistent
    assert again.volume == pytest.approx(ball.volume, rel=1e-9)
    whole = np.zeros(len(triangles))
    np.add.at(whole, made.parent, area(made.points, made.triangles))
    assert whole == pytest.approx(area(points, triangles))
    seam = made.points[made.seam]
    edges = np.sort(again.edges_unique, axis=1).tolist()
    assert all(sorted(pair) in edges for pair in np.stack([made.seam[:-1], made.seam[1:]], axis=1).tolist())
    normal = np.linalg.svd(seam - seam[0])[2][2]
    edge = float(np.median(ball.edges_unique_length))
    assert np.abs((seam - seam[0]) @ normal).max() < 0.15 * edge  # but for points that were near it already


def test_other_meshes_are_left_alone():
    ring = trimesh.creation.torus(50, 20)
    assert sliced_ball(np.asarray(ring.vertices), np.asarray(ring.faces)) is None
    half = BALLS["ball"].slice_plane([0, 0, 0], [0, 0, 1])
    assert sliced_ball(np.asarray(half.vertices), np.asarray(half.faces)) is None


def test_two_balls_in_a_file_get_a_seam_each():
    balls = trimesh.util.concatenate([BALLS["ball"], BALLS["ball"].copy().apply_translation([200, 0, 0])])
    form = form_of(balls)
    assert len(form.faces) == len(form.bodies) == 2
    for n in (1, 2):
        (seam,) = develop(form, [n]).seams_form
        assert np.linalg.norm(np.diff(seam, axis=0), axis=1).sum() == pytest.approx(np.pi * 50, rel=0.01)
