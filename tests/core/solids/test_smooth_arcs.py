"""Outlines of many arcs that stand for a smooth curve: one face of a body, as exact as the arcs."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.special import ellipe

from zuschnitt.core.carry.path import Paths
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.route import Job
from zuschnitt.core.plane.contour import Contour
from zuschnitt.core.plane.smooth import as_arcs
from zuschnitt.core.solids.explore import volume
from zuschnitt.core.solids.flat import prism, rounded
from zuschnitt.core.solids.smooth_arcs import curved_runs

A, B = 40.0, 25.0
ROUND = 4 * A * ellipe(1 - (B / A) ** 2)
ELLIPSE = {"figure": "ellipse", "length": "80", "width": "50", "x": "60", "y": "40"}


def outcome(figure: dict, operation: str, **values: str):
    job = Job().added("lay_sheet", width=400, height=200)
    job = job.added("draw_figures", figures=[{"number": 1, "place": "origin", **figure}]).added(operation, **values)
    state = run_all(job)[job.rows[-1].id]
    assert state.status == "done", state.reason
    return state.outcome


def test_an_ellipse_pulled_out_has_one_wall_that_is_developed_exactly():
    form = outcome(ELLIPSE, "pull_profile", length="30").value
    wall = max(form.faces, key=lambda face: face.area)
    assert len(form.faces) == 3 and wall.area == pytest.approx(30 * ROUND, rel=1e-8)
    blank = develop(form, [wall.number])
    assert blank.way == "exact" and blank.figures.area_blank == pytest.approx(30 * ROUND, rel=1e-8)
    sides = np.ptp(np.vstack([contour.points for contour in blank.outline]), axis=0)
    assert sorted(sides) == pytest.approx([30, ROUND], rel=1e-6)


def test_with_a_wall_and_turned_its_volumes_are_those_of_closed_forms():
    made = outcome(ELLIPSE, "pull_profile", length="30", wall="2")
    assert len(made.value.faces) == 4
    inside = np.pi * 2 * 2  # what lies within 2 mm of a convex outline, inside of it: length x 2 less pi x 2²
    assert made.results[0].made[0].volume == pytest.approx(30 * (2 * ROUND - inside), rel=1e-6)
    ring = outcome(ELLIPSE, "turn_profile")
    assert ring.results[0].made[0].volume == pytest.approx(2 * np.pi * 60 * np.pi * A * B, rel=1e-6)


def test_an_open_curve_is_one_surface():
    through = {"figure": "curve", "points": "20,20; 60,55; 110,30; 150,60"}
    form = outcome(through, "pull_profile", length="30", view="top").value
    assert len(form.faces) == 1


def test_what_goes_through_smooth_sections_is_not_twisted():
    """They begin at the left and at the right; a curve through points, and an ellipse as long that lies as it does."""
    job = Job().added("lay_sheet", width=400, height=200)
    curve = {"number": 1, "figure": "curve", "points": "20,40; 60,65; 100,40; 60,15", "ends": "closed"}
    lines = [{**curve, "place": "origin"}, {**ELLIPSE, "number": 2, "place": "origin"}]
    job = job.added("draw_figures", figures=lines).added("loft_profiles", heights="0, 60", between="straight")
    found = run_all(job)[job.rows[-1].id].outcome
    ends = [face.area for face in found.value.faces if face.kind == "plane"]
    volume = found.results[0].made[0].volume
    assert len(found.value.faces) == 3
    assert 0.99 * 60 * min(ends) < volume < 1.01 * 60 * max(ends)  # twisted by half a turn it is a waist


@pytest.mark.parametrize("count", [12, 36])
def test_what_is_meant_as_arcs_stays_arcs(count):
    turn = 2 * np.pi / count
    at = turn * np.arange(count)
    circle = Contour(30 * np.column_stack([np.cos(at), np.sin(at)]), np.full(count, np.tan(turn / 4)), True)
    slot = Contour(np.array([[0.0, 0], [40, 0], [40, 20], [0, 20]]), np.array([0.0, 1, 0, 1]), True)
    for contour in (circle, slot):
        assert all(curve is None for _, curve in curved_runs(Paths.of([contour])))


def test_a_smooth_stretch_between_corners_is_a_curve_of_its_own():
    def wave(t):
        return np.column_stack([t, 5 * np.sin(t / 5)]), np.column_stack([np.ones_like(t), np.cos(t / 5)])

    arcs = as_arcs(wave, np.linspace(0, 60, 7), closed=False)
    corners = np.array([[60.0, 30], [0, 30]])
    contour = Contour(np.vstack([arcs.points, corners]), np.r_[arcs.bulges, 0, 0], True)
    runs = list(curved_runs(Paths.of([contour])))
    assert [curve is not None for _, curve in runs] == [True, False] and len(runs[1][0]) == 3
    assert volume(prism(contour, 0, 2)) == pytest.approx(2 * contour.area, rel=1e-7)
    at = np.linspace(0, 1, 999)
    curve = runs[0][1]
    points = curve.evaluate(curve.knots[0] + at * (curve.knots[-1] - curve.knots[0]))
    assert points[:, 1] == pytest.approx(5 * np.sin(points[:, 0] / 5), abs=4e-5)


def test_what_the_kernel_rounds_over_gaps_is_told():
    """Where many short lines turn a little each it sews the roundings together over hundredths of a mm."""
    at = np.linspace(0, 2 * np.pi, 99, endpoint=False)
    facets = Contour.polyline(np.column_stack([13 * np.cos(at), 11 * np.sin(at)]), closed=True)
    assert rounded(prism(facets, 0, 1.5, arcs=True), 0.4, 1.5) is None
    square = Contour.polyline([[0, 0], [20, 0], [20, 10], [0, 10]], closed=True)
    assert rounded(prism(square, 0, 1.5), 0.4, 1.5) is not None


def test_letters_with_rounded_edges_are_made_of_triangles_rather_than_wrong():
    job = Job().added("make_tube", diameter="120", height="100", wall="4").added("develop", faces="1", way="exact")
    for letter, by in (("I", "exact"), ("S", "mesh")):
        figure = {"number": 1, "figure": "text", "text": letter, "height": "26", "place": "middle"}
        tried = job.added("draw_figures", figures=[figure]).added("raise_artwork", by="1.5", round="0.4")
        found = run_all(tried)[tried.rows[-1].id].outcome
        assert found.results[0].made[0].by == by
        assert any("made of triangles" in said for said in found.messages) == (by == "mesh")
