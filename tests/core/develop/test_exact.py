"""Exact developments against closed forms."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests import parts
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.develop.placing import Hold
from zuschnitt.core.errors import CannotBeDone, Refused
from zuschnitt.core.form.build import turned_body
from zuschnitt.core.form.locator import foot


def faces_of(form, *kinds):
    return [face.number for face in form.faces if face.kind in kinds]


@settings(max_examples=25, deadline=None)
@given(st.floats(5, 400), st.floats(0, 400), st.floats(10, 900))
def test_a_cone_becomes_its_sector(lower, upper, height):
    if abs(lower - upper) < 0.5:
        upper = lower + 1
    blank = develop(turned_body([(lower, 0), (upper, height)]), [1])
    slant = np.hypot(upper - lower, height)
    area = np.pi * (lower + upper) * slant
    outline = 2 * np.pi * (lower + upper) + 2 * slant
    assert blank.figures.area_blank == pytest.approx(area, rel=1e-9)
    assert blank.figures.outline_length == pytest.approx(outline, rel=1e-9)
    assert sum(c.area for c in blank.outline) == pytest.approx(area, rel=1e-9)
    assert sum(c.length for c in blank.outline) == pytest.approx(outline, rel=1e-9)
    assert blank.figures.round_trip_max < 1e-9


@pytest.mark.parametrize("seam", ["own", "hold", "opposite"])
def test_points_of_a_cone_lie_on_the_blank_as_the_closed_form_says(seam):
    """Distance to the apex is kept; the angle shrinks by the sine of the half angle."""
    body = turned_body([(60, 0), (200, 420)])
    hold = np.array([0, -200, 420.0])
    blank = develop(body, [1], hold=Hold(hold, np.array([1.0, 0, 0])), seam=seam)
    apex = np.array([0, 0, -180.0])
    sine = 140 / np.hypot(140, 420)
    rng = np.random.default_rng(2)
    angle = rng.uniform(-1.4, 1.4, 500) - np.pi / 2
    z = rng.uniform(0, 420, 500)
    r = 60 + z / 3
    points = np.stack([r * np.cos(angle), r * np.sin(angle), z], axis=1)
    slant = np.linalg.norm(points - apex, axis=1)
    turn = (angle + np.pi / 2) * sine
    expected = np.stack([slant * np.sin(turn), slant * np.cos(turn)], axis=1)
    expected -= [0, np.linalg.norm(hold - apex)]
    if seam == "hold":  # the blank begins at the hold point, and runs on to the right of it
        keep = angle > -np.pi / 2
    elif seam == "own":
        keep = angle < 0
    else:
        keep = angle > -np.inf
    got = blank.correspondence.to_blank(points[keep])
    assert got.inside.all()
    assert np.abs(got.points - expected[keep]).max() < 1e-6
    assert np.abs(blank.correspondence.to_form(got.points).points - points[keep]).max() < 1e-9


def test_a_tube_becomes_a_rectangle_and_its_points_roll_out(form):
    tube = form("tube")
    number = faces_of(tube, "cylinder")[0]
    blank = develop(tube, [number], hold=Hold(np.array([50.0, 0, 0]), np.array([0, 1.0, 0])))
    assert blank.bounds == pytest.approx((0, 0, 100 * np.pi, 120), abs=1e-9)
    angle = np.linspace(0.01, 6.2, 400)
    points = np.stack([50 * np.cos(angle), 50 * np.sin(angle), 10 + 15 * angle], axis=1)
    got = blank.correspondence.to_blank(points)
    assert got.inside.all()
    assert np.abs(got.points - np.stack([50 * angle, 10 + 15 * angle], axis=1)).max() < 1e-9


def test_a_bend_becomes_one_piece_of_the_right_length(form):
    blank = develop(form("bend"), [1, 2, 3])
    arc = np.pi / 2 * parts.BEND_RADIUS
    length = parts.BEND_BASE + arc + parts.BEND_FLANGE
    assert blank.figures.pieces == 1
    assert len(blank.outline) == 1
    assert blank.figures.area_blank == pytest.approx(length * parts.BEND_WIDTH, rel=1e-9)
    assert blank.figures.outline_length == pytest.approx(2 * (length + parts.BEND_WIDTH), rel=1e-9)
    sizes = sorted([blank.bounds[2] - blank.bounds[0], blank.bounds[3] - blank.bounds[1]])
    assert sizes == pytest.approx(sorted([length, parts.BEND_WIDTH]), rel=1e-9)
    assert [fold.layer for fold in blank.folds] == ["REFERENCE"] * 2


def test_points_of_a_bend_lie_where_the_arc_length_says(form):
    """Hold the base's free corner, with x across the bend: x on the blank is the length of the profile."""
    hold = Hold(np.zeros(3), np.array([1.0, 0, 0]))
    blank = develop(form("bend"), [1, 2, 3], hold=hold)
    r, base = parts.BEND_RADIUS, parts.BEND_BASE
    angle = np.linspace(0, np.pi / 2, 50)
    around = np.stack([base + r * np.sin(angle), 0 * angle + 33, r - r * np.cos(angle)], axis=1)
    up = np.stack([np.full(9, base + r), np.full(9, 33.0), r + np.linspace(0, 39, 9)], axis=1)
    got = blank.correspondence.to_blank(np.vstack([around, up])).points
    expected = np.r_[base + r * angle, base + r * np.pi / 2 + np.linspace(0, 39, 9)]
    assert np.abs(got[:, 0] - expected).max() < 1e-6
    assert np.abs(np.abs(got[:, 1]) - 33).max() < 1e-6


def test_an_obliquely_cut_tube_has_the_outline_of_a_sine(form):
    tube = form("oblique_tube")
    number = faces_of(tube, "cylinder")[0]
    hold = Hold(np.array([-50.0, 0, 0]), np.array([0, -1.0, 0]))
    blank = develop(tube, [number], hold=hold)
    from scipy.integrate import quad

    upper = quad(lambda s: np.sqrt(1 + np.sin(s / 50) ** 2), 0, 100 * np.pi, limit=400)[0]
    assert blank.figures.area_blank == pytest.approx(100 * np.pi * 120, rel=1e-6)
    assert blank.bounds[3] - blank.bounds[1] == pytest.approx(170, rel=1e-5)
    # the seam runs through the hold point, where the tube is lowest or highest
    outlines = [upper + 100 * np.pi + 2 * height for height in (70, 170)]
    assert min(abs(blank.figures.outline_length / outline - 1) for outline in outlines) < 1e-6


def test_a_box_unfolds_to_a_cross_without_overlap(form):
    import shapely

    blank = develop(form("box"), range(1, 7))
    assert blank.figures.pieces == 1
    assert blank.figures.area_blank == pytest.approx(2 * (6000 + 4000 + 2400), rel=1e-12)
    shape = shapely.Polygon(blank.outline[0].points)
    assert shape.is_valid and shape.area == pytest.approx(blank.figures.area_blank)
    assert len(blank.folds) == 5 and {fold.layer for fold in blank.folds} == {"BEND_DOWN"}
    assert {fold.name for fold in blank.folds} == {"90°"}


def test_the_blank_is_not_mirrored_seen_from_outside(form):
    """On the top of a box, seen from above, x to the right and y up stay so."""
    box = form("box")
    top = foot(box, np.array([50, 30, 40.0]))[0]
    blank = develop(box, [top], hold=Hold(np.array([0, 0, 40.0]), np.array([1.0, 0, 0])))
    points = np.array([[10, 0, 40], [0, 20, 40], [70, 50, 40.0]])
    assert np.abs(blank.correspondence.to_blank(points).points - points[:, :2]).max() < 1e-9
    bottom = foot(box, np.array([50, 30, 0.0]))[0]
    blank = develop(box, [bottom], hold=Hold(np.array([0, 0, 0.0]), np.array([1.0, 0, 0])))
    got = blank.correspondence.to_blank(np.array([[10, 20, 0.0]])).points
    assert got == pytest.approx(np.array([[10, -20]]))


def test_cone_and_cylinder_of_a_cyclone_do_not_join():
    """A circle between them is an arc on one flat and a straight line on the other."""
    blank = develop(turned_body([(60, 0), (200, 420), (200, 640)]), [1, 2])
    assert blank.figures.pieces == 2
    assert blank.figures.area_change == pytest.approx(0, abs=1e-7)


def test_two_tubes_on_one_axis_join_and_keep_their_seam():
    hold = Hold(np.array([0, 50.0, 0]), np.array([-1.0, 0, 0]))
    blank = develop(turned_body([(50, 0), (50, 30), (50, 100)]), [1, 2], hold=hold)
    assert blank.figures.pieces == 1
    assert blank.bounds[2] - blank.bounds[0] == pytest.approx(100 * np.pi)
    assert blank.bounds[3] - blank.bounds[1] == pytest.approx(100)


def test_a_hole_goes_with_the_blank_and_stops_a_seam(form):
    tube = form("drilled_tube")
    number = faces_of(tube, "cylinder")[0]
    blank = develop(tube, [number], hold=Hold(np.array([-50.0, 0, 0]), np.array([0, -1.0, 0])))
    assert len(blank.outline) == 2
    assert sorted(np.sign(c.area) for c in blank.outline) == [-1, 1]
    assert blank.figures.area_change == pytest.approx(0, abs=1e-6)
    with pytest.raises(CannotBeDone, match="hole"):
        develop(tube, [number], hold=Hold(np.array([50 * np.cos(0.1), 50 * np.sin(0.1), 10]), np.array([0, 1.0, 0])))


def test_outline_of_a_cone_is_arcs_and_lines():
    outline = develop(turned_body([(60, 0), (200, 420)]), [1]).outline
    assert len(outline) == 1 and outline[0].closed
    assert len(outline[0].points) <= 6


@pytest.mark.parametrize("name", ["dome", "ring", "vase"])
def test_doubly_curved_faces_are_refused_by_name(form, name):
    part = form(name)
    number = next(face.number for face in part.faces if not face.developable)
    with pytest.raises(CannotBeDone) as refusal:
        develop(part, [number], "exact")
    assert f"Face {number}" in refusal.value.sentence and "relaxed" in refusal.value.sentence
    assert refusal.value.faces == (number,)


def test_bad_holds_are_refused(form):
    box = form("box")
    with pytest.raises(Refused, match="square"):
        develop(box, [1], hold=Hold(np.array([0, 0, 0.0]), np.array([1.0, 0, 0])))
    with pytest.raises(Refused, match="not finite"):
        develop(box, [1], hold=Hold(np.array([0, np.nan, 0.0])))
    with pytest.raises(Refused, match="No face"):
        develop(box, [])
    with pytest.raises(Refused, match="faces 1 to 6"):
        develop(box, [7])


def test_a_hold_point_off_the_form_is_said(form):
    blank = develop(form("box"), [6], hold=Hold(np.array([50, 30, 45.0]), np.array([1.0, 0, 0])))
    assert "5.00 mm off" in blank.messages[0]
