"""Triangles that pass through each other, with and without patches that are known not to."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from zuschnitt.core.mesh.crossing import crossing
from zuschnitt.core.mesh.plain_patches import plain_patches


def net(points: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """A net (r, c, 3) of points as triangles."""
    index = np.arange(points.shape[0] * points.shape[1]).reshape(points.shape[:2])
    a, b, c, d = (each.ravel() for each in (index[:-1, :-1], index[1:, :-1], index[1:, 1:], index[:-1, 1:]))
    return points.reshape(-1, 3), np.vstack([np.stack([a, b, c], 1), np.stack([a, c, d], 1)])


def ramp(rise: float) -> tuple[np.ndarray, np.ndarray]:
    """Two turns and a half of a screw: seen from above it covers itself; with no rise it lies in itself, and waves."""
    radius, turn = np.meshgrid(np.linspace(20, 60, 12), np.linspace(0, 5 * np.pi, 240))
    height = rise * turn + (0.0 if rise else 0.3) * radius * np.sin(3 * turn * 0.9)
    return net(np.stack([radius * np.cos(turn), radius * np.sin(turn), height], axis=-1))


def pressed_through() -> tuple[np.ndarray, np.ndarray]:
    """A ball whose upper side is pressed in until it comes out below."""
    ball = trimesh.creation.icosphere(4, 50)
    points = np.asarray(ball.vertices).copy()
    points[:, 2] -= 130 * np.exp(-(points[:, :2] ** 2).sum(axis=1) / 300) * (points[:, 2] > 0)
    return points, np.asarray(ball.faces)


def rough() -> tuple[np.ndarray, np.ndarray]:
    random = np.random.default_rng(5)
    x, y = np.meshgrid(np.linspace(0, 100, 50), np.linspace(0, 100, 50))
    return net(np.stack([x, y, 0 * x], axis=-1) + random.normal(0, 0.8, (50, 50, 3)))


@pytest.mark.parametrize("made", [lambda: ramp(0.0), lambda: ramp(4.0), pressed_through, rough])
def test_patches_leave_no_crossing_out(made, monkeypatch):
    points, triangles = made()
    found, places = crossing(points, triangles)
    monkeypatch.setattr("zuschnitt.core.mesh.crossing.plain_patches", lambda _, t: np.full(len(t), -1))
    every, where = crossing(points, triangles)
    assert np.array_equal(found, every) and np.allclose(places, where)


def test_there_are_crossings_where_there_should_be():
    assert len(crossing(*ramp(0.0))[0]) > 100 and len(crossing(*pressed_through())[0]) > 20
    assert not len(crossing(*ramp(4.0))[0])


def test_a_half_ball_is_five_plain_patches():
    ball = trimesh.creation.icosphere(5, 50)
    above = np.asarray(ball.faces)[ball.triangles_center[:, 2] > 0]
    patch = plain_patches(np.asarray(ball.vertices), above)
    assert len(np.unique(patch)) == 5 and (patch >= 0).all()


def test_a_patch_that_covers_itself_is_none():
    assert (plain_patches(*ramp(4.0)) == -1).all()
