"""Wrap and trace through one correspondence."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad
from scipy.spatial import cKDTree

from zuschnitt.core.carry.carried import deviation, divided_message, outside_message
from zuschnitt.core.carry.runs import runs_on_faces
from zuschnitt.core.carry.tracing import SpaceCurve, trace
from zuschnitt.core.carry.wrapping import wrap
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.develop.placing import Hold
from zuschnitt.core.errors import Refused
from zuschnitt.core.files.artwork_file import read_artwork
from zuschnitt.core.form.build import domed_lid, turned_body
from zuschnitt.core.job.evaluate import Evaluator
from zuschnitt.core.job.route import Asset, Job
from zuschnitt.core.plane.contour import Contour

TUBE = turned_body([(50, 0), (50, 400)])
ROLLED = develop(TUBE, [1], hold=Hold(np.array([50.0, 0, 0]), np.array([0, 1.0, 0])))


def helix(start, angle_degrees, s):
    """On the tube of radius 50: a line from ``start`` on the blank, at an angle to x, by its length."""
    a = np.radians(angle_degrees)
    x, y = start[0] + s * np.cos(a), start[1] + s * np.sin(a)
    return np.stack([50 * np.cos(x / 50), 50 * np.sin(x / 50), y], axis=-1)


def test_a_line_at_20_degrees_becomes_a_helix():
    a = np.radians(20)
    line = Contour.polyline([[5, 10], [5 + 280 * np.cos(a), 10 + 280 * np.sin(a)]])
    (curve,) = wrap(ROLLED.correspondence, [line])
    s = np.linalg.norm(curve.blank - [5, 10], axis=1)
    assert np.abs(curve.form - helix([5, 10], 20, s)).max() < 1e-6
    assert curve.inside.all()
    assert curve.length_form == pytest.approx(280, rel=1e-6)
    assert curve.length_blank == pytest.approx(280, rel=1e-12)


def test_the_smooth_curve_of_a_wrapped_line_stays_a_helix_between_its_points():
    a = np.radians(20)
    (curve,) = wrap(ROLLED.correspondence, [Contour.polyline([[5, 10], [5 + 280 * np.cos(a), 10 + 280 * np.sin(a)]])])
    (spline,) = curve.splines
    points = spline.evaluate(np.linspace(spline.knots[0], spline.knots[-1], 3001))
    angle = np.unwrap(np.arctan2(points[:, 1], points[:, 0]))
    height = 10 + (50 * angle - 5) * np.tan(a)
    assert np.abs(np.hypot(points[:, 0], points[:, 1]) - 50).max() < 1e-3
    assert np.abs(points[:, 2] - height).max() < 1e-3


@settings(max_examples=30, deadline=None)
@given(st.floats(20, 290), st.floats(20, 380), st.floats(0.5, 15))
def test_a_circle_becomes_what_its_points_say(x, y, r):
    (curve,) = wrap(ROLLED.correspondence, [Contour.circle((x, y), r)])
    expected = np.stack(
        [50 * np.cos(curve.blank[:, 0] / 50), 50 * np.sin(curve.blank[:, 0] / 50), curve.blank[:, 1]], 1
    )
    assert np.abs(curve.form - expected).max() < 1e-9
    assert curve.length_blank == pytest.approx(2 * np.pi * r, rel=1e-12)
    assert curve.length_form == pytest.approx(2 * np.pi * r, rel=2e-4)
    assert len(curve.splines) == 1


def test_a_smooth_curve_of_artwork_has_its_own_length_and_not_that_of_its_chords():
    """Curves of files come as short lines; the true length is that of the cubic, by quadrature."""
    drawn = '<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="60mm" viewBox="0 0 100 60">'
    drawn += '<path d="M10 60 H40 C60 10 90 80 99 5" fill="none" stroke="black"/></svg>'
    (contour,) = read_artwork(drawn.encode(), "curve.svg").contours
    (curve,) = wrap(ROLLED.correspondence, [contour.moved(at=(150.0, 200.0))])
    a, b, c, d = np.array([[40, 60], [60, 10], [90, 80], [99, 5.0]])

    def speed(t: float) -> float:
        return float(np.linalg.norm(3 * (1 - t) ** 2 * (b - a) + 6 * t * (1 - t) * (c - b) + 3 * t**2 * (d - c)))

    expected = 30 + quad(speed, 0, 1)[0]
    assert contour.length < expected * (1 - 1e-5)
    assert curve.length_blank == pytest.approx(expected, rel=1e-6)
    assert curve.length_form == pytest.approx(expected, rel=1e-6)


def test_corners_stay_corners():
    square = Contour.polyline([[50, 50], [80, 50], [80, 80], [50, 80]], closed=True)
    (curve,) = wrap(ROLLED.correspondence, [square])
    assert len(curve.splines) == 4
    assert curve.length_form == pytest.approx(120, rel=1e-6)


def test_chords_stay_near_the_surface():
    (curve,) = wrap(ROLLED.correspondence, [Contour.polyline([[1, 200], [300, 200]])], tolerance=0.01)
    middle = (curve.form[1:] + curve.form[:-1]) / 2
    assert (50 - np.hypot(middle[:, 0], middle[:, 1])).max() < 0.0101


def test_a_curve_over_three_smooth_faces_comes_back(form):
    part = form("three_smooth")
    blank = develop(part, part.smooth_chain([1]))
    assert len(blank.faces) == 3 and blank.figures.pieces == 1
    angle = np.linspace(0.2, np.pi / 2, 60)
    first = np.stack([-30 * np.cos(angle), 10 + 15 * angle, 30 - 30 * np.sin(angle)], axis=1)
    x = np.linspace(0, 50, 40)[1:]
    second = np.stack([x, 10 + 15 * np.pi / 2 + 0.5 * x, 0 * x], axis=1)
    turn = np.linspace(0, 1.2, 40)[1:]
    third = np.stack([50 + 20 * np.sin(turn), second[-1, 1] + 10 * turn, -20 + 20 * np.cos(turn)], axis=1)
    curve = np.vstack([first, second, third])
    (traced,), messages = trace(blank.correspondence, [SpaceCurve(curve)])
    assert traced.inside.all() and not messages
    assert len(set(traced.faces)) == 3
    back = blank.correspondence.to_form(traced.blank)
    assert np.abs(back.points - curve).max() < 1e-9
    assert deviation(blank.correspondence, [traced]) < 1e-9
    # lengths are kept: the arc of the first cylinder and the incline, by Pythagoras
    expected = np.hypot(30, 15) * (np.pi / 2 - 0.2) + np.hypot(50, 25) + np.hypot(20, 10) * 1.2
    assert traced.length_blank == pytest.approx(expected, rel=1e-4)


def test_trace_and_wrap_share_one_map_on_a_lid():
    blank = develop(domed_lid(200, 150, 30, 35, 40), [1])
    ring = Contour.circle(tuple(np.array(blank.bounds[:2]) + [60, 75]), 12)
    (wrapped,) = wrap(blank.correspondence, [ring])
    (traced,), _ = trace(blank.correspondence, [SpaceCurve(wrapped.form)])
    assert np.abs(traced.blank - wrapped.blank).max() < 1e-6


def test_what_is_outside_is_kept_and_said():
    line = Contour.polyline([[-40, 10], [-40, -10]])
    off = Contour.polyline([[-40, -10], [-30, -60]])
    curves = wrap(ROLLED.correspondence, [line, off])
    assert not curves[0].inside.all() and curves[0].inside.any() and not curves[1].inside.any()
    assert np.isfinite(curves[0].form).all()
    # a tube goes on round: what is left of the seam lies where it would on the tube
    assert np.hypot(curves[0].form[0, 0] - 50 * np.cos(-0.8), curves[0].form[0, 1] - 50 * np.sin(-0.8)) < 1e-9
    message = outside_message(curves)
    assert "1 partly" in message and "1 wholly" in message
    assert outside_message(wrap(ROLLED.correspondence, [Contour.circle((50, 50), 5)])) is None


def test_every_turn_round_a_closed_face_is_on_it():
    line = Contour.polyline([[-300, 20], [900, 380]])
    (curve,) = wrap(ROLLED.correspondence, [line])
    assert curve.inside.all() and outside_message([curve]) is None
    assert curve.length_form == pytest.approx(np.hypot(1200, 360), rel=1e-6)


def test_points_off_the_form_are_said():
    (_,), messages = trace(ROLLED.correspondence, [SpaceCurve(np.array([[51.0, 0, 10], [0, 51, 20]]))])
    assert "1 mm off the form" in messages[0]


@pytest.mark.parametrize("curve", [[[1, 2, 3]], [[1, 2], [3, 4]], [[1, 2, 3], [1, np.nan, 3]]])
def test_bad_curves_are_refused(curve):
    with pytest.raises(Refused):
        trace(ROLLED.correspondence, [SpaceCurve(np.array(curve, float))])


def off_the_line(curve, correspondence, line):
    """How far in mm the smooth curves of a carried straight line lie from its points, carried one by one."""
    places = line[0] + np.linspace(0, 1, 100_001)[:, None] * (line[1] - line[0])
    true = cKDTree(correspondence.to_form(places).points)
    t = np.linspace(0, 1, 2000)
    ends = [(0, 1) if spline.kind == "line" else (spline.knots[0], spline.knots[-1]) for spline in curve.splines]
    return max(
        true.query(spline.evaluate(a + t * (b - a)))[0].max()
        for spline, (a, b) in zip(curve.splines, ends, strict=True)
    )


@pytest.mark.parametrize("name", ["sine", "waves", "joggle", "box", "bend", "three_smooth"])
def test_smooth_curves_stay_on_what_bends_and_folds(form, name):
    part = form(name)
    blank = develop(part, [face.number for face in part.faces] if name != "three_smooth" else part.smooth_chain([1]))
    x0, y0, x1, y1 = blank.bounds
    line = np.array([[x0 + 1, y0 + 3.3], [x1 - 1, y1 - 5.1]])
    (curve,) = wrap(blank.correspondence, [Contour.polyline(line)])
    assert off_the_line(curve, blank.correspondence, line) < 0.01
    # the map is exact, so the line keeps its length, however often it bends within one of its spans
    assert curve.length_form == pytest.approx(np.linalg.norm(line[1] - line[0]), rel=1e-5)


def test_a_line_whose_sag_vanishes_at_its_middle_is_not_taken_for_a_chord(form):
    blank = develop(form("sine"), [1])
    x0, y0, x1, _ = blank.bounds
    line = Contour.polyline([[x0 + 1, y0 + 40], [x1 - 1, y0 + 40]])
    (curve,) = wrap(blank.correspondence, [line])
    assert curve.length_form == pytest.approx(x1 - x0 - 2, rel=1e-6)


def test_a_curve_over_a_seam_is_divided_there_in_order():
    angle = np.linspace(-0.4, 0.4, 41)
    curve = np.stack([50 * np.cos(angle), 50 * np.sin(angle), 60 + 0 * angle], axis=1)
    parts, _ = trace(ROLLED.correspondence, [SpaceCurve(curve, "band", smooth=True)])
    assert [part.name for part in parts] == ["band, part 1", "band, part 2"]
    assert [part.length_blank for part in parts] == pytest.approx([20, 20], rel=1e-6)
    assert "band crosses an edge" in divided_message(parts)
    assert np.abs(parts[0].form[-1] - parts[1].form[0]).max() < 1e-9


def test_a_curve_along_a_seam_stays_on_one_side():
    curve = np.array([[50.0, 0, 0], [50, 0, 60], [50, 0, 100], [50, 0, 140]])
    (traced,), _ = trace(ROLLED.correspondence, [SpaceCurve(curve)])
    assert np.ptp(traced.blank[:, 0]) < 1e-9 and traced.length_blank == pytest.approx(140)


def test_a_curve_over_an_edge_that_is_cut_open_is_divided(form):
    blank = develop(form("box"), [1, 2, 3, 4, 5, 6])
    round_it = np.array([[0, 30, 20], [0, 30, 40], [100, 30, 40], [100, 30, 0], [0, 30, 0], [0, 30, 20]], float)
    parts, _ = trace(blank.correspondence, [SpaceCurve(round_it)])
    assert len(parts) > 1
    assert sum(part.length_form for part in parts) == pytest.approx(280)
    assert sum(part.length_blank for part in parts) == pytest.approx(280)


@pytest.mark.parametrize("seed", range(6))
def test_a_line_along_the_joint_of_two_faces_is_on_one_of_them(form, seed):
    """Whatever the rounding, which turns with the direction: it changed faces 1,890 times."""
    dice = np.random.default_rng(seed)
    angle = dice.uniform(0, 2 * np.pi)
    hold = Hold(np.array([50.0, 0.0, 40.0]), np.array([np.cos(angle), np.sin(angle), 0.0]))
    blank = develop(form("box"), range(1, 7), hold=hold)
    joints = [fold for fold in blank.folds if len(fold.points) == 2]
    assert len(joints) == 5
    for fold in joints:
        start, end = fold.points
        _, runs = runs_on_faces(blank.correspondence, [Contour.polyline([start, end], layer="MARK")])
        assert len(runs) == 1


def test_artwork_that_reads_from_inside_is_mirrored_on_the_blank():
    """Seen from the other side, left and right are exchanged and nothing else."""
    drawing = (
        '<svg xmlns="http://www.w3.org/2000/svg" width="20mm" height="20mm" viewBox="-10 -10 20 20">'
        '<path d="M0,0 L5,0 A3,3 0 0 1 5,-6 L0,-6 Z"/></svg>'
    )
    job = Job(thickness="1").with_asset(Asset("a.svg", drawing.encode())).added("make_block")
    job = job.added("develop", faces="6").added("place_artwork", file="a.svg", x="7", turn="30")
    sides = {}
    for reads in ("outside", "inside"):
        states = [state for _, state in Evaluator().evaluate(job.set(job.rows[-1].id, "reads", reads))]
        sides[reads] = states[-1].outcome.value
    plain, mirrored = (sides[reads].contours[0] for reads in ("outside", "inside"))
    turn = np.radians(30)
    undo = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
    straight = [(c.flattened(1e-4) - [7, 0]) @ undo for c in (plain, mirrored)]
    assert straight[1] == pytest.approx(straight[0] * [-1, 1], abs=1e-9)
