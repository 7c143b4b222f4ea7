"""Pieces beside each other, triangle sizes, and the round trip of any map."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from zuschnitt.core.develop.developing import develop
from zuschnitt.core.develop.layout import arranged
from zuschnitt.core.develop.sheet import MOST_TRIANGLES, triangle_size
from zuschnitt.core.errors import CannotBeDone
from zuschnitt.core.form.build import domed_lid, turned_body
from zuschnitt.core.geometry.curves import converged, length

BOX = st.tuples(*[st.floats(-500, 500)] * 2, *[st.floats(1, 300)] * 2)


@settings(max_examples=40, deadline=None)
@given(st.lists(BOX, min_size=1, max_size=6))
def test_pieces_do_not_overlap_and_the_first_one_stays(boxes):
    pieces = [np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h]]) for x, y, w, h in boxes]
    laid = [motion.apply(p) for p, motion in zip(pieces, arranged(pieces), strict=True)]
    assert laid[0] == pytest.approx(pieces[0])
    shapes = [shapely.Polygon(p) for p in laid]
    for one, other in itertools.combinations(shapes, 2):
        assert one.distance(other) > 1
    for before, after in zip(pieces, shapes, strict=True):
        assert after.area == pytest.approx(shapely.Polygon(before).area)


def test_extrapolation_takes_out_two_orders_of_error():
    """Values with errors in h² and h⁴ alone come out exact."""
    assert converged(
        lambda spans: np.zeros((spans + 1, 2)), lambda p: 7 + 3 / len(p[1:]) ** 2 - 5 / len(p[1:]) ** 4
    ) == (pytest.approx(7, abs=1e-12))


@pytest.mark.parametrize("bends", [1, 8, 300])
def test_lengths_settle_however_often_a_curve_bends(bends):
    def wave(t):
        return np.stack([100 * t, 30 / bends * np.sin(2 * np.pi * bends * t)], axis=1)

    nodes, weights = np.polynomial.legendre.leggauss(40)
    s = (nodes + 1) / 2 / bends  # one bend by a Gauss rule
    one = (weights / 2 / bends * np.hypot(100, 60 * np.pi * np.cos(2 * np.pi * bends * s))).sum()
    assert length(wave, 0, 1) == pytest.approx(bends * one, rel=1e-6)


def test_triangle_sizes():
    assert triangle_size(40_000, 3.0) == 3.0
    h = triangle_size(40_000, None)
    assert 40_000 / (np.sqrt(3) / 4 * h * h) == pytest.approx(9000, rel=1e-3)
    with pytest.raises(CannotBeDone, match=f"{MOST_TRIANGLES:,}"):
        triangle_size(40_000, 0.05)


@pytest.mark.parametrize("way", ["relaxed", "parametric", "even"])
def test_every_way_with_triangles_keeps_to_their_limit(way):
    with pytest.raises(CannotBeDone, match="take larger ones"):
        develop(domed_lid(200, 150, 30, 35, 40), [1], way, edge_length=0.05)


def test_a_round_trip_sees_points_that_are_off_the_form():
    """It is a measure that can fail: points lifted off the surface come back on it."""
    blank = develop(turned_body([(50, 0), (50, 120)]), [1])
    on = np.array([[50 * np.cos(a), 50 * np.sin(a), 60.0] for a in np.linspace(0.5, 5, 40)])
    assert blank.correspondence.round_trip(on) < 1e-9
    assert blank.correspondence.round_trip(on * [1.01, 1.01, 1]) == pytest.approx(0.5)
