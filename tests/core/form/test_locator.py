"""Which face holds a point: of thin parts, whose faces lie nearer to each other than triangles to a face."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from tests.meshes import form_of
from zuschnitt.core.form.locator import Locator, foot
from zuschnitt.core.kernel.forms import form_of_shape
from zuschnitt.core.solids.primitives import tube

RNG = np.random.default_rng(4)


def test_every_point_of_a_thin_plate_is_on_the_side_it_is_on():
    plate = form_of(trimesh.creation.box((1000, 600, 1.0)))
    x, y = RNG.uniform(-499, 499, 300), RNG.uniform(-299, 299, 300)
    z = np.where(RNG.random(300) < 0.5, -0.5, 0.5)
    feet = Locator.of(plate).feet(np.stack([x, y, z], axis=1))
    normals = Locator.of(plate).outward(feet)
    assert feet.gap.max() < 1e-9 and (np.sign(normals[:, 2]) == np.sign(z)).all()


def test_a_wall_thinner_than_its_triangles_lie_off_it_has_two_sides():
    outer, inner = 400.0, 399.95
    form = form_of_shape(tube(2 * outer, 2 * outer, 300.0, outer - inner), "tube")
    triangles = np.vstack([mesh.points[mesh.triangles].mean(axis=1) for mesh in form.meshes])
    off = np.hypot(*triangles.T[:2])
    assert outer - off.min() > outer - inner  # so that triangles alone cannot tell
    angle, height = RNG.uniform(0, 2 * np.pi, 60), RNG.uniform(5, 295, 60)
    for radius in (outer, inner):
        for a, z in zip(angle, height, strict=True):
            number, at = foot(form, np.array([radius * np.cos(a), radius * np.sin(a), z]))
            assert form.face(number).surface.radius == pytest.approx(radius)
            assert np.hypot(*at[:2]) == pytest.approx(radius, abs=1e-9)


def test_a_point_beside_a_face_goes_to_its_edge_and_not_to_the_plane_it_lies_in():
    box = form_of(trimesh.creation.box((40, 30, 20)))
    number, at = foot(box, np.array([25.0, 3.0, 9.9]))
    assert at == pytest.approx([20.0, 3.0, 9.9]) and box.face(number).surface.normals(np.zeros((1, 2)))[0, 0] != 0
