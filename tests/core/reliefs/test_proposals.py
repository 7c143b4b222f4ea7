"""Where to cut: proposals are measured again by developing with them."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from zuschnitt.core.develop.assembly import Assembly
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.errors import CannotBeDone
from zuschnitt.core.files.form_file import read_form
from zuschnitt.core.flatten.coarse_start import _coarse
from zuschnitt.core.form.build import domed_lid, turned_body
from zuschnitt.core.form_curves.meridians import Axis, meridians
from zuschnitt.core.reliefs import proposal
from zuschnitt.core.reliefs.cut_where_needed import develop_cut
from zuschnitt.core.reliefs.proposal import largest
from zuschnitt.core.reliefs.proposing import propose

LID = domed_lid(240, 180, 40, 40, 0)


def with_cuts(form, faces, reliefs):
    return develop(form, faces, "relaxed", assembly=Assembly(reliefs=tuple(r.points for r in reliefs)))


def test_proposals_come_under_the_target_and_say_what_each_gains():
    blank = develop(LID, [1])
    found = propose(LID, blank, 1.5)
    assert found.uncut == pytest.approx(largest(blank.mesh.stretch))
    assert found.uncut > 2.5 and found.reached <= 1.5
    assert 1 <= len(found.reliefs) <= 8
    again = with_cuts(LID, [1], found.reliefs)
    assert largest(again.mesh.stretch) == pytest.approx(found.reached, rel=0.1)
    gains = [relief.gain for relief in found.reliefs]
    assert gains == sorted(gains, reverse=True) and gains[0] > 0
    # leaving out the best one really costs
    assert largest(with_cuts(LID, [1], found.reliefs[1:]).mesh.stretch) > found.reached


@pytest.mark.parametrize("crown, hole, most_mm", [(60, 0, 380), (36, 60, 290)])
def test_proposals_are_no_longer_than_the_best_known(crown, hole, most_mm):
    """Four cuts at the corners, as one would draw them, take 420 mm on the steepest of these lids."""
    lid = domed_lid(240, 180, crown, 40, hole)
    found = propose(lid, develop(lid, [1]), 2.0)
    assert found.reached <= 2.0 and found.length < most_mm


@pytest.mark.parametrize("triangles", [1000, 1100])
def test_what_suffices_is_found_whatever_mesh_cuts_are_tried_on(monkeypatch, triangles):
    """The ends of the cuts tried first came so near to each other that the blank lay over itself, and none was found."""
    monkeypatch.setattr(proposal, "COARSE", triangles)
    lid = domed_lid(240, 180, 60, 40, 0)
    found = propose(lid, develop(lid, [1]), 2.0)
    assert found.reached <= 2.0 and 200 < found.length < 480


def test_a_ball_is_divided_into_gores_that_hang_together(form):
    ball = form("ball")
    found = propose(ball, develop(ball, [1]), 5.0, most=12)
    assert found.reached <= 5.0 < found.uncut
    lengths = [relief.length for relief in found.reliefs]
    assert lengths == pytest.approx([lengths[0]] * len(lengths), rel=1e-3)
    assert lengths[0] < 0.95 * np.pi * 50  # they end before the pole
    again = with_cuts(ball, [1], found.reliefs)
    assert again.figures.pieces == 1 and again.figures.flipped == 0
    assert largest(again.mesh.stretch) == pytest.approx(found.reached, rel=0.1)
    assert min(relief.gain for relief in found.reliefs) > 1


def test_with_too_few_cuts_it_is_said_how_far_they_lead(form):
    ball = form("ball")
    found = propose(ball, develop(ball, [1]), 1.0, most=5)
    assert len(found.reliefs) == 5 and 1.0 < found.reached < 15
    assert with_cuts(ball, [1], found.reliefs).figures.pieces == 6


def test_a_ring_is_divided_into_segments(form):
    ring = form("ring")
    blank = develop(ring, [1])
    found = propose(ring, blank, 10.0, most=12)
    radius = ring.faces[0].surface.radius
    assert found.reached <= 10.0 < found.uncut
    assert [r.length for r in found.reliefs] == pytest.approx([2 * np.pi * radius] * len(found.reliefs), rel=1e-2)


def test_a_dome_with_its_floor_is_divided_too(form):
    """It has no rim, and no face of it has a seam of its own."""
    dome = form("dome")
    faces = [face.number for face in dome.faces]
    blank = develop(dome, faces, "relaxed")
    found = propose(dome, blank, 12.0, most=12)
    assert blank.seams_form == () and found.reached <= 12.0 and found.uncut > 50
    assert with_cuts(dome, faces, found.reliefs).figures.pieces == len(found.reliefs)


def test_nothing_is_proposed_where_nothing_is_needed():
    lid = domed_lid(240, 180, 5, 40, 0)
    assert propose(lid, develop(lid, [1]), 2.0).reliefs == ()
    body = turned_body([(60, 0), (120, 100)])
    with pytest.raises(CannotBeDone, match="nothing to relieve"):
        propose(body, develop(body, [1]), 2.0)


@pytest.mark.parametrize("angle", [0.0, 0.7, -2.5])
def test_a_meridian_of_a_ball_runs_from_pole_to_pole(form, angle):
    axis = Axis.through(np.zeros(3), np.array([0.0, 0, 3]))
    (curve,) = meridians(form("ball"), axis, angle, [1])
    assert sorted(curve[[0, -1], 2]) == pytest.approx([-50, 50], abs=1e-6)
    assert np.linalg.norm(curve[1:-1], axis=1) == pytest.approx(50, abs=1e-9)
    assert axis.angles(curve[1:-1]) == pytest.approx(angle, abs=1e-9)


def test_a_meridian_of_a_ring_is_closed():
    mesh = trimesh.creation.torus(60, 20, major_sections=80, minor_sections=48)
    ring = read_form(mesh.export(file_type="stl"), "ring.stl", "mm")
    (curve,) = meridians(ring, Axis.through(np.zeros(3), np.array([0.0, 0, 1])), 0.3, [1])
    assert curve[0] == pytest.approx(curve[-1])
    assert np.linalg.norm(np.diff(curve, axis=0), axis=1).sum() == pytest.approx(2 * np.pi * 20, rel=5e-3)


def test_parts_that_hang_together_in_a_point_are_no_coarse_mesh():
    """Each can turn about it, so there is no one map; solving for it once ended in an error of the solver."""
    assert _coarse(np.array([[0, 1, 2], [0, 3, 4]])) is None
    assert len(_coarse(np.array([[0, 1, 2], [0, 2, 3], [0, 3, 4]]))) == 3


def test_what_one_sheet_cannot_be_is_cut_in_gores_and_said():
    ball = trimesh.intersections.slice_mesh_plane(trimesh.creation.icosphere(3, 50.0), [0, 0, -1], [0, 0, 45.0])
    form = read_form(ball.export(file_type="stl"), "ball.stl", unit="mm")
    blank = develop_cut(form, [face.number for face in form.faces])
    assert any("In one sheet it would" in said and "so it was cut" in said for said in blank.messages)
    assert blank.way == "relaxed" and abs(blank.figures.area_change) < 3
    assert max(blank.figures.stretch_max, -blank.figures.stretch_min) < 40
