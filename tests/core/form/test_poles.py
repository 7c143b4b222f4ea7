"""Faces that end in points, and where a blank is held when nothing is asked."""

from __future__ import annotations

import numpy as np
import pytest

from tests.odd_parts import TO_POLES
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.develop.placing import Hold
from zuschnitt.core.form.form import POLE


@pytest.mark.parametrize("name", TO_POLES)
def test_a_face_to_a_pole_is_relaxed_whatever_surface_it_is_of(form, name):
    blank = develop(form(name), [1])
    assert blank.way == "relaxed" and blank.figures.pieces == 1
    # a gore of a ball, 45 degrees wide, can be had within about 5 %; none of these is wider bent than an octant
    assert blank.figures.stretch_max < 4 and blank.figures.stretch_min > -9
    assert abs(blank.figures.area_change) < 0.2
    assert blank.figures.round_trip_max < 1e-6


def test_the_same_face_gives_the_same_blank_as_an_analytic_surface_and_as_splines(form):
    for name in ("wedge_60", "gore"):
        one, other = (develop(form(each), [1]).figures for each in (name, f"{name}_splines"))
        assert one.area_blank == pytest.approx(other.area_blank, rel=1e-4)
        assert one.stretch_min == pytest.approx(other.stretch_min, abs=0.3)


def test_exchanging_the_parameters_keeps_the_face(form):
    one, other = (form(name).faces[0] for name in ("triangle", "triangle_other_way"))
    assert one.area == pytest.approx(other.area, rel=1e-9)
    for face in (one, other):
        (pole,) = (c for c in face.loops[0] if c.edge == POLE)
        assert pole.ends[0, 1] == pytest.approx(pole.ends[1, 1])
    # both patches have the same control points, but their outer sides lie opposite
    point = one.surface.evaluate(np.array([[0.4, 0.5]]))
    normals = [face.outward(face.surface.project(point))[0] for face in (one, other)]
    assert normals[0] @ normals[1] == pytest.approx(-1)


@pytest.mark.parametrize("name", ["lens", "gore_splines", "triangle"])
def test_points_beside_a_pole_find_their_way_back(form, name):
    surface = form(name).faces[0].surface
    low, high = np.array(surface.bounds).reshape(2, 2).T
    uv = low + np.random.default_rng(3).random((4000, 2)) * (high - low)
    points = surface.evaluate(uv)
    assert np.abs(surface.evaluate(surface.project(points)) - points).max() < 1e-9


@pytest.mark.parametrize("name", ["tip_sector", "tip_up", "tip_down", "flat_triangle"])
def test_what_is_exact_to_a_tip_is_held_somewhere_sensible(form, name):
    part = form(name)
    blank = develop(part, [1])
    assert blank.way == "exact" and abs(blank.figures.area_change) < 1e-9
    # its first edge runs along x; seen from the outer side, it lies on one side of that
    assert blank.bounds[1] > -1e-6 or blank.bounds[3] < 1e-6 or blank.bounds[1] == pytest.approx(-blank.bounds[3])


@pytest.mark.parametrize("degrees", [0, 90, 180])
@pytest.mark.parametrize("name, radius", [("tube", 50), ("cone", 100)])
@pytest.mark.parametrize("seam", ["auto", "own", "hold"])
def test_a_hold_point_on_the_seam_has_the_blank_on_its_right(form, name, radius, degrees, seam):
    if seam == "own" and degrees:
        return  # then it does not lie on the seam
    around = np.array([np.cos(np.radians(degrees)), np.sin(np.radians(degrees)), 0])
    along = np.array([-around[1], around[0], 0])
    blank = develop(form(name), [1], hold=Hold(radius * around, along), seam=seam)
    assert blank.bounds[0] == pytest.approx(0, abs=1e-6)


@pytest.mark.parametrize("degrees", [0, 20, 70])
def test_a_cone_is_held_at_its_tip_when_asked(form, degrees):
    part = form("tip_sector")
    tip = np.array([0, 0, 100.0])
    turn = np.radians(degrees)
    ray = np.array([80 * np.cos(turn), 80 * np.sin(turn), -100])
    blank = develop(part, [1], hold=Hold(tip, ray))
    there = blank.correspondence.to_blank(np.array([tip, tip + 0.5 * ray])).points
    assert there == pytest.approx(np.array([[0, 0], [np.linalg.norm(ray) / 2, 0]]), abs=0.3)


def test_a_whole_ball_of_splines_is_halved_as_any_other(form):
    blank = develop(form("ball_splines"), [1])
    assert blank.figures.pieces == 1 and blank.figures.round_trip_max < 1e-6
