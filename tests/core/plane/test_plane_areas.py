"""Areas of the plane: joined, taken away, moved outward, their corners rounded; against sampling and closed forms."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from zuschnitt.core.errors import Refused
from zuschnitt.core.plane.combining import combined
from zuschnitt.core.plane.contour import Contour
from zuschnitt.core.plane.corners import chamfered, rounded
from zuschnitt.core.plane.offsetting import moved_outward
from zuschnitt.core.plane.smooth import as_arcs
from zuschnitt.core.plane.spans import Spans
from zuschnitt.core.plane.trimming import without_part

RECTANGLE = Contour.polyline([[0, 0], [40, 0], [40, 20], [0, 20]], closed=True)
SLOT = Contour(np.array([[-14, -6], [14, -6], [14, 6], [-14, 6]], float), np.array([0, 1.0, 0, 1.0]), True)


def area_of(contours):
    return sum(contour.area for contour in contours)


def made(kind: int, seed: int) -> Contour:
    random = np.random.default_rng(seed)
    at, turn = random.uniform(-8, 8, 2), random.uniform(0, 7)
    if kind == 0:
        return Contour.circle(at, random.uniform(2, 9))
    if kind == 1:
        w, h = random.uniform(4, 20, 2)
        return Contour.polyline([[0, 0], [w, 0], [w, h], [0, h]], closed=True).moved(1, turn, at)
    if kind == 2:
        return SLOT.moved(random.uniform(0.2, 1), turn, at)
    angles = np.sort(np.arange(7) * 0.9 + random.uniform(-0.3, 0.3, 7))
    return Contour.polyline(random.uniform(4, 12, (7, 1)) * np.c_[np.cos(angles), np.sin(angles)], closed=True).moved(
        at=at
    )


shapes = st.builds(made, st.integers(0, 3), st.integers(0, 10**6))


def inside(contours, points):
    return Spans.of(contours).contains(points) if contours else np.zeros(len(points), bool)


def gap(contours, points):
    flat = shapely.union_all([shapely.LineString(np.vstack([f := c.flattened(1e-5), f[:1]])) for c in contours])
    return shapely.distance(flat, shapely.points(points))


@settings(max_examples=60, deadline=None)
@given(shapes, shapes, st.sampled_from([0.7, 2.0, -0.6, -1.7, 4.0]))
def test_areas_are_right_at_each_of_many_points(one, other, distance):
    points = np.random.default_rng(5).uniform(-30, 30, (4000, 2))
    sure = (gap([one], points) > 1e-3) & (gap([other], points) > 1e-3)
    a, b = inside([one], points), inside([other], points)
    assert (shapely.contains_xy(shapely.Polygon(one.flattened(1e-5)), points) == a)[sure].all()
    for way, wanted in (("joined", a | b), ("less", a & ~b), ("common", a & b)):
        assert (inside(combined([one], [other], way), points) == wanted)[sure].all(), way
    area = combined([one], [other], "joined")
    away = gap(area, points)
    wanted = inside(area, points) | (away < distance) if distance > 0 else inside(area, points) & (away > -distance)
    assert (inside(moved_outward(area, distance), points) == wanted)[np.abs(away - abs(distance)) > 1e-3].all()


@pytest.mark.parametrize(
    "contour, distance, expected",
    [
        (RECTANGLE, 3, 800 + 120 * 3 + np.pi * 9),
        (RECTANGLE, -3, 34 * 14),
        (RECTANGLE.reversed(), -3, 34 * 14),
        (SLOT, 2, 28 * 16 + np.pi * 64),
        (SLOT, -2, 28 * 8 + np.pi * 16),
        (Contour.circle((5, 5), 4), 1, np.pi * 25),
        (Contour.circle((5, 5), 4), -5, 0),
    ],
)
def test_contours_move_outward_with_arcs_that_stay_arcs(contour, distance, expected):
    moved = moved_outward([contour], distance)
    assert area_of(moved) == pytest.approx(expected, rel=1e-12, abs=1e-9)
    assert sum(len(c.points) for c in moved) <= 8


def test_sharp_corners_stay_and_holes_move_the_other_way():
    assert area_of(moved_outward([RECTANGLE], 3, sharp=True)) == pytest.approx(46 * 26)
    plate = [RECTANGLE, Contour.circle((20, 10), 5)]
    assert area_of(moved_outward(plate, 1, sharp=True)) == pytest.approx(42 * 22 - np.pi * 16)
    assert area_of(moved_outward(plate, -1)) == pytest.approx(38 * 18 - np.pi * 36)
    comb = combined([RECTANGLE], [Contour.polyline([[10, 2], [12, 2], [12, 30], [10, 30]], closed=True)], "less")
    apart = moved_outward(comb, -2.5)
    assert len(apart) == 2  # the strip below the notch is too narrow


@pytest.mark.parametrize(
    "other, way, expected",
    [
        (RECTANGLE, "joined", 800),  # the same again
        (RECTANGLE, "less", 0),
        (RECTANGLE, "common", 800),
        (RECTANGLE.moved(at=(40, 0)), "joined", 1600),  # side by side
        (RECTANGLE.moved(at=(40, 0)), "common", 0),
        (RECTANGLE.moved(at=(20, 0)), "less", 400),  # edges run along each other
        (Contour.circle((20, 10), 5), "less", 800 - 25 * np.pi),
        (Contour.circle((20, 10), 10), "less", 800 - 100 * np.pi),  # touches two sides
        (Contour.circle((0, 0), 5), "common", 25 * np.pi / 4),
        (Contour.circle((100, 0), 5), "joined", 800 + 25 * np.pi),
    ],
)
def test_areas_that_touch_or_are_the_same(other, way, expected):
    assert area_of(combined([RECTANGLE], [other], way)) == pytest.approx(expected, rel=1e-9, abs=1e-6)


def test_corners_are_rounded_and_cut_off_where_there_is_room():
    for radius in (1, 5, 10):
        assert rounded(RECTANGLE, radius).area == pytest.approx(800 - (4 - np.pi) * radius**2)
    assert rounded(RECTANGLE, 5, [2]).area == pytest.approx(800 - (4 - np.pi) * 25 / 4)
    assert chamfered(RECTANGLE, 3).area == pytest.approx(800 - 4 * 4.5)
    run = rounded(Contour.polyline([[0, 0], [10, 0], [10, 10]]), 3)
    assert run.length == pytest.approx(14 + 1.5 * np.pi) and not run.closed
    # between a line and an arc: the new arc touches both
    half = Contour(np.array([[0, 0], [20, 0], [20, 20], [0, 20.0]]), np.array([0, 0.4, 0, 0]), True)
    spans = Spans.of([rounded(half, 2, [2])])
    leave, arrive = spans.direction(np.zeros(len(spans))), spans.direction(np.ones(len(spans)))
    turns = np.abs([a[0] * b[1] - a[1] * b[0] for a, b in zip(np.roll(arrive, 1, axis=0), leave, strict=True)])
    assert np.sort(turns)[:2] == pytest.approx([0, 0], abs=1e-9)
    for refused in (
        lambda: rounded(RECTANGLE, 11),
        lambda: rounded(RECTANGLE, 2, [7]),
        lambda: chamfered(RECTANGLE, 30),
    ):
        with pytest.raises(Refused):
            refused()


def test_smooth_curves_are_arcs_within_a_tenth_of_a_micrometre_or_so():
    def ellipse(t):
        c, s = np.cos(t), np.sin(t)
        return np.stack([30 * c, 10 * s], axis=1), np.stack([-30 * s, 10 * c], axis=1)

    contour = as_arcs(ellipse, np.linspace(0, 2 * np.pi, 5), closed=True)
    assert contour.area == pytest.approx(300 * np.pi, rel=1e-5)
    on = contour.flattened(1e-6)
    t = np.linspace(0, 2 * np.pi, 20001)
    away = shapely.distance(shapely.LineString(ellipse(t)[0]), shapely.points(on))
    assert away.max() < 1.2e-4


def test_a_contour_is_trimmed_between_its_crossings():
    circle = Contour.circle((0, 0), 10)
    line = Contour.polyline([[-20, 0], [20, 0]])
    (upper,) = without_part(circle, [line], np.array([0, -10.0]))
    assert upper.length == pytest.approx(10 * np.pi) and upper.points[:, 1].min() > -1e-9
    rest = without_part(line, [circle], np.array([0, 0.0]))
    assert sorted(c.length for c in rest) == pytest.approx([10, 10])
    with pytest.raises(Refused, match="do not cross"):
        without_part(line, [circle.moved(at=(0, 40))], np.zeros(2))
