"""Surfaces against their own inverse, finite differences, and the geometry kernel."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from zuschnitt.core.form.build import domed_lid
from zuschnitt.core.geometry.curves import Spline, parameters_within
from zuschnitt.core.geometry.surfaces import (
    Cone,
    Cylinder,
    Extrusion,
    Frame,
    Plane,
    Revolution,
    Sphere,
    SplineSurface,
    Torus,
)

RANDOM = np.random.default_rng(5)
AXES = np.linalg.qr(RANDOM.normal(size=(3, 3)))[0]
FRAME = Frame(np.array([3.0, -7.0, 11.0]), AXES)
PROFILE = Spline(
    np.array([0, 0, 0, 0, 1, 2, 2, 2, 2.0]),
    np.array([[30, 0, 0], [50, 4, 20], [55, 0, 50], [60, -3, 80], [55, 0, 100.0]]),
    3,
)
CONTROL = np.stack(np.meshgrid(np.arange(6.0) * 10, np.arange(5.0) * 10, indexing="ij"), -1)
HILLS = np.concatenate([CONTROL, RANDOM.normal(size=(6, 5, 1)) * 4], axis=2)
KNOTS_U = np.array([0, 0, 0, 0, 0.3, 0.7, 1, 1, 1, 1])
KNOTS_V = np.array([0, 0, 0, 1, 1, 2, 2, 2.0])

SURFACES = {
    "plane": (Plane(FRAME), [-20, -20], [20, 20]),
    "cylinder": (Cylinder(FRAME, 13.0), [0.1, -20], [6.2, 20]),
    "cone": (Cone(FRAME, 13.0, 0.4), [0.1, -20], [6.2, 20]),
    "cone the other way": (Cone(FRAME, 13.0, -0.4), [0.1, -20], [6.2, 20]),
    "cone beyond its apex": (Cone(FRAME, 13.0, 0.4), [0.1, -80], [6.2, -40]),
    "sphere": (Sphere(FRAME, 13.0), [0.1, -1.4], [6.2, 1.4]),
    "torus": (Torus(FRAME, 30.0, 9.0), [0.1, 0.1], [6.2, 6.2]),
    "revolution": (
        Revolution(Frame(np.zeros(3), np.eye(3)), PROFILE, (0, 2 * np.pi, 0, 2)),
        [0.3, 0.1],
        [6.0, 1.9],
    ),
    "extrusion": (Extrusion(PROFILE, np.array([0, 1.0, 0]), (0, 2, -30, 30)), [0.1, -30], [1.9, 30]),
    "spline": (SplineSurface(KNOTS_U, KNOTS_V, HILLS, 3, 2), [0.01, 0.01], [0.99, 1.99]),
    "rational spline": (
        SplineSurface(KNOTS_U, KNOTS_V, HILLS, 3, 2, 1 + RANDOM.random((6, 5))),
        [0.01, 0.01],
        [0.99, 1.99],
    ),
}


def some(name: str, count: int = 300):
    surface, low, high = SURFACES[name]
    return surface, low + np.random.default_rng(3).random((count, 2)) * np.subtract(high, low)


@pytest.mark.parametrize("name", SURFACES)
def test_derivatives_agree_with_differences(name):
    surface, uv = some(name)
    for axis, derivative in enumerate(surface.derivatives(uv)):
        step = 1e-6 * np.eye(2)[axis]
        difference = (surface.evaluate(uv + step) - surface.evaluate(uv - step)) / 2e-6
        assert np.abs(difference - derivative).max() < 2e-5 * max(1, np.abs(derivative).max())


@pytest.mark.parametrize("mirror", [1, -1])
@pytest.mark.parametrize("name", SURFACES)
def test_normals_stand_on_the_tangents_in_mirrored_frames_too(name, mirror):
    surface, uv = some(name)
    if hasattr(surface, "frame"):
        frame = Frame(surface.frame.origin, surface.frame.axes * [[1], [1], [mirror]])
        surface = replace(surface, frame=frame)
    upright = np.cross(*surface.derivatives(uv))
    assert surface.normals(uv) == pytest.approx(upright / np.linalg.norm(upright, axis=1, keepdims=True), abs=1e-12)


@pytest.mark.parametrize("name", SURFACES)
def test_points_on_a_surface_project_onto_themselves(name):
    surface, uv = some(name)
    points = surface.evaluate(uv)
    feet = surface.project(points)
    assert np.linalg.norm(surface.evaluate(feet) - points, axis=1).max() < 1e-9


@pytest.mark.parametrize("name", [n for n in SURFACES if "apex" not in n])
def test_points_off_a_surface_project_along_its_normal(name):
    surface, uv = some(name)
    points = surface.evaluate(uv)
    moved = points + 0.3 * surface.normals(uv)
    assert np.linalg.norm(surface.evaluate(surface.project(moved)) - points, axis=1).max() < 1e-6


def test_a_spline_surface_agrees_with_an_independent_evaluation():
    from scipy.interpolate import NdBSpline

    surface, uv = some("spline")
    independent = NdBSpline((KNOTS_U, KNOTS_V), HILLS, (3, 2))
    assert np.abs(surface.evaluate(uv) - independent(uv)).max() < 1e-12


def test_rational_weights_make_a_true_circle():
    half = np.sqrt(0.5)
    control = np.array([[[1, 0, z], [1, 1, z], [0, 1, z]] for z in (0.0, 5.0)])
    weights = np.array([[1, half, 1]] * 2)
    quarter = SplineSurface(np.array([0, 0, 1, 1.0]), np.array([0, 0, 0, 1, 1, 1.0]), control, 1, 2, weights)
    points = quarter.evaluate(np.random.default_rng(1).random((200, 2)))
    assert np.abs(np.hypot(points[:, 0], points[:, 1]) - 1).max() < 1e-14


@settings(max_examples=60, deadline=None)
@given(st.floats(0.05, 1.5), st.floats(1, 500), st.floats(-3, 3), st.floats(-0.9, 5))
def test_cone_slant_is_the_distance_from_the_apex(half_angle, radius, u, part):
    cone = Cone(FRAME, radius, half_angle)
    apex = cone.evaluate(np.array([[0.0, cone.apex_v]]))[0]
    v = part * radius
    point = cone.evaluate(np.array([[u, v]]))[0]
    assert np.linalg.norm(point - apex) == pytest.approx(abs(v - cone.apex_v), rel=1e-9, abs=1e-9)


def test_the_lid_is_as_high_as_it_is_asked_to_be():
    surface = domed_lid(240, 180, 36, 40, 60).faces[0].surface
    heights = surface.evaluate(np.array([[0, 0], [120, 90], [-120, 90], [120, 0]]))[:, 2]
    assert heights == pytest.approx([36, 0, 0, 18])


def test_a_wave_that_crosses_its_chords_at_their_middles_is_seen():
    """Its five first samples lie on one line, and so do the middles between them."""

    def wave(t):
        return np.stack([t, 3 * np.sin(8 * np.pi * t)], axis=1)

    t = parameters_within(wave, 0.0, 1.0, 0.01)
    fine = np.linspace(0, 1, 20_001)
    assert shapely.distance(shapely.LineString(wave(t)), shapely.points(wave(fine))).max() < 0.012
