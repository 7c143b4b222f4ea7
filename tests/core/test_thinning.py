"""Artwork made lighter: what is left stays within the tolerance of what there was."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from zuschnitt.core.contour import Contour
from zuschnitt.core.plane.thinning import thinned


def apart(one, other):
    """The larger of both one-sided distances, measured at points 0.3 mm apart or nearer."""
    lines = [[shapely.LineString(c.flattened(1e-5)) for c in contours] for contours in (one, other)]
    gaps = []
    for mine, theirs in (lines, lines[::-1]):
        points = shapely.points(np.vstack([shapely.get_coordinates(shapely.segmentize(line, 0.3)) for line in mine]))
        gaps.append(shapely.STRtree(theirs).query_nearest(points, return_distance=True, all_matches=False)[1].max())
    return max(gaps)


def circle(radius, count, noise=0.0):
    turn = np.linspace(0, 2 * np.pi, count, endpoint=False)
    wobble = radius + noise * np.sin(97 * turn)
    return Contour.polyline(np.column_stack([wobble * np.cos(turn), wobble * np.sin(turn)]), True)


@pytest.mark.parametrize("tolerance", [0.005, 0.05, 0.5])
def test_a_circle_of_tiny_segments_becomes_arcs(tolerance):
    given_ = circle(40, 3000)
    made = thinned([given_], tolerance)
    assert made.segments[0] == 3000 and made.segments[1] <= 4 and made.contours[0].bulges.any()
    assert apart(made.contours, [given_]) <= tolerance * 1.01
    assert made.contours[0].area == pytest.approx(np.pi * 1600, rel=2 * tolerance / 40 + 1e-6)


def test_a_square_of_tiny_segments_keeps_its_corners():
    side = np.linspace(0, 1, 500, endpoint=False)[:, None]
    corners = np.array([[0.0, 0], [100, 0], [100, 60], [0, 60]])
    points = np.vstack([a + side * (b - a) for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True)])
    (made,) = thinned([Contour.polyline(points, True)], 0.01).contours
    assert len(made.points) == 4 and not made.bulges.any()
    assert {tuple(p) for p in np.round(made.points, 6)} == {tuple(c) for c in corners}


def test_gaps_close_doubles_and_specks_go():
    path = [[[0, 0], [50, 0]], [[50.05, 0], [50, 40]], [[50, 40.05], [0, 0.05]]]
    three = [Contour.polyline(p) for p in path]
    speck = Contour.polyline([[5, 5], [5.1, 5.1]])
    made = thinned([*three, three[1].reversed(), speck], 0.01, gaps=0.1, smallest=1)
    assert (made.doubles, made.specks, made.joined, made.opened) == (1, 1, 2, 0)
    (closed,) = made.contours
    assert closed.closed and abs(closed.area) == pytest.approx(1000, rel=5e-3)
    kept = thinned([*three, Contour.circle((0, 0), 5)], 0.01, closed_only=True)
    assert kept.opened == 3 and len(kept.contours) == 1


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000), st.sampled_from([0.01, 0.1, 1.0]), st.booleans())
def test_whatever_it_is_it_stays_within_the_tolerance(seed, tolerance, closed):
    random = np.random.default_rng(seed)
    walk = np.cumsum(random.normal(0, 1, (random.integers(3, 200), 2)), axis=0) * random.choice([0.02, 1.0])
    contour = Contour(walk, np.where(random.random(len(walk)) < 0.1, random.uniform(-0.8, 0.8, len(walk)), 0.0), closed)
    made = thinned([contour], tolerance)
    assert made.segments[1] <= made.segments[0]
    assert apart(made.contours, [contour]) <= tolerance * 1.02 + 1e-4
    assert made.contours[0].closed == closed
