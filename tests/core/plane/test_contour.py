"""Contours against closed forms and shapely."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from zuschnitt.core.plane.contour import Contour, arc_centre, bounds, flattened
from zuschnitt.core.plane.region import Region

SLOT = Contour(np.array([[0, 0], [40, 0], [40, 20], [0, 20.0]]), np.array([0, 1.0, 0, 1.0]), True)


def test_a_slot_has_the_area_and_length_of_a_slot():
    assert SLOT.area == pytest.approx(40 * 20 + np.pi * 100)
    assert SLOT.length == pytest.approx(80 + 2 * np.pi * 10)
    assert bounds([SLOT]) == pytest.approx((-10, 0, 50, 20))


@settings(max_examples=50, deadline=None)
@given(st.floats(-3, 3).filter(lambda b: abs(b) > 1e-3))
def test_flattened_arcs_agree_with_their_figures(bulge):
    contour = Contour(np.array([[0, 0], [30, 7.0]]), np.array([bulge, 0.0]), False)
    flat = contour.flattened(1e-5)
    assert np.linalg.norm(np.diff(flat, axis=0), axis=1).sum() == pytest.approx(contour.length, rel=1e-4)
    centre, radius, _, _ = arc_centre(*(np.array(p) for p in ((0.0, 0.0), (30.0, 7.0))), bulge)
    assert np.abs(np.linalg.norm(flat - centre, axis=1) - radius).max() < 1e-9 * radius + 1e-9


@settings(max_examples=40, deadline=None)
@given(st.floats(0.1, 8), st.floats(-4, 4), st.floats(-90, 90), st.booleans())
def test_moving_keeps_the_shape(scale, turn, x, mirror):
    moved = SLOT.moved(scale, turn, (x, 3.0), mirror)
    assert abs(moved.area) == pytest.approx(SLOT.area * scale**2)
    assert np.sign(moved.area) == (-1 if mirror else 1)
    assert moved.length == pytest.approx(SLOT.length * scale)


def test_the_other_way_round_is_the_same_contour():
    for contour in (SLOT, Contour(SLOT.points, np.array([0, 1.0, 0.3, 0]), False)):
        there, back = contour.flattened(0.01), contour.reversed().flattened(0.01)
        assert contour.reversed().length == pytest.approx(contour.length)
        assert shapely.LineString(there).hausdorff_distance(shapely.LineString(back)) < 0.02


@settings(max_examples=20, deadline=None)
@given(st.integers(0, 10_000))
def test_a_region_agrees_with_shapely(seed):
    rng = np.random.default_rng(seed)
    angle = np.sort(rng.random(40)) * 2 * np.pi
    ring = np.stack([np.cos(angle), np.sin(angle)], 1) * (50 + 45 * rng.random((40, 1)))
    hole = 3 * np.stack([np.cos(-angle), np.sin(-angle)], 1)
    region = Region((ring, hole))
    polygon = shapely.Polygon(ring, [hole])
    points = rng.uniform(-110, 110, (2000, 2))
    assert (region.contains(points) == shapely.contains_xy(polygon, points)).all()
    expected = shapely.distance(shapely.points(points), polygon.boundary)
    assert np.abs(region.distance(points) - expected).max() < 0.02 * np.abs(expected).max()
    assert np.median(np.abs(region.distance(points) - expected)) < 1e-9


@pytest.mark.parametrize("bulge", [1e-6, -1e-9, 1e-12, -1e-15])
def test_arcs_that_are_nearly_straight_are_flattened_exactly(bulge):
    """Points along the chord at evenly spread turns, with the height of a parabola over it."""
    start, end = np.array([1000.0, -2000.0]), np.array([1400.0, -1700.0])
    points = Contour(np.array([start, end]), np.array([bulge, 0.0]), False).flattened(abs(bulge) * 1e-2)
    assert (points[0] == start).all() and (points[-1] == end).all()
    along = (points - start) @ (end - start) / 500.0**2
    across = (points - start) @ np.array([300.0, -400.0]) / 500.0
    assert across == pytest.approx(4 * along * (1 - along) * bulge * 250, abs=1e-12)


def test_arcs_between_whole_numbers_are_flattened_between_them_too():
    circle = Contour.circle((0, 0), 10)
    whole = replace(circle, points=circle.points.astype(int))
    flat = whole.flattened(0.01)
    assert flat == pytest.approx(circle.flattened(0.01), abs=0) and len(flat) > 40
    assert np.hypot(*flat.T) == pytest.approx(10, abs=1e-12)
    both = Contour(np.array([[0, 0], [4, 0], [8, 0]]), np.array([0.0, 0.5, 0.0]), False).flattened(0.01)
    assert both[:2].tolist() == [[0, 0], [4, 0]] and both[-1].tolist() == [8, 0] and len(both) > 5


def test_many_contours_are_flattened_as_each_alone():
    several = [SLOT, Contour.circle((3, 4), 5), Contour.polyline([[0, 0], [5, 0], [5, 5]]), Contour.polyline([[1, 1]])]
    for one, alone in zip(flattened(several, 0.01), several, strict=True):
        assert np.array_equal(one, alone.flattened(0.01))
    assert flattened([], 0.01) == []
