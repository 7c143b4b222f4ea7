"""Charts of faces of triangles are made when they are asked for, not when a mesh is read."""

from __future__ import annotations

import pickle

import numpy as np
import pytest
import trimesh

from tests.meshes import form_of
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.form import meshing
from zuschnitt.core.form.build import turned_body
from zuschnitt.core.form.locator import foot
from zuschnitt.core.form.moved import Motion
from zuschnitt.core.form.persistent_names import remembered
from zuschnitt.core.form.persistent_points import places_of, points_again
from zuschnitt.core.lazy import Later


def dome():
    ball = trimesh.creation.icosphere(4, 50)
    ball.update_faces(ball.triangles_center[:, 2] > 10)
    return form_of(ball)


def charted(form) -> list[bool]:
    """Whether what reads the chart of a face has it already: its surface, its triangles, its edges."""
    face, mesh = form.faces[0], form.meshes[0]
    held = [face.surface.__dict__["uv"], mesh.__dict__["uv"], face.loops[0][0].__dict__["curve"]]
    return [not isinstance(each, Later) or each._work is None for each in held]


def test_reading_looking_and_pointing_make_no_chart():
    form = dome()
    number, at = foot(form, np.array([10.0, 20.0, 60.0]))
    assert number == 1 and np.linalg.norm(at) == pytest.approx(50, abs=0.1)
    assert form.seams == frozenset() and form.bounds[1][2] == pytest.approx(50)
    remembered(form, (1,), "faces")
    places_of(form, at[None], {})
    moved = Motion.about(np.array([0, 0, 1.0]), 30, np.zeros(3), np.array([5.0, 0, 0])).form(form)
    sent = pickle.loads(pickle.dumps(moved))
    assert [charted(each) for each in (form, moved, sent)] == [[False] * 3] * 3


def test_one_chart_serves_face_triangles_and_edges_and_goes_along_once_made():
    form = dome()
    blank = develop(form, [1])
    assert charted(form)[:2] == [True, True]
    surface, mesh = form.faces[0].surface, form.meshes[0]
    assert surface.uv is mesh.uv
    walk = form.faces[0].loops[0][0]
    assert surface.evaluate(walk.uv(np.arange(walk.start, walk.end + 1))) == pytest.approx(
        form.edges[walk.edge].curve.evaluate(np.arange(walk.start, walk.end + 1)), abs=1e-9
    )
    sent = pickle.loads(pickle.dumps(form))
    assert charted(sent)[:2] == [True, True] and np.array_equal(sent.meshes[0].uv, mesh.uv)
    again = develop(pickle.loads(pickle.dumps(dome())), [1])
    assert np.abs(again.mesh.points_blank - blank.mesh.points_blank).max() < 1e-9


def test_a_point_goes_with_a_mesh_that_was_moved():
    form = dome()
    at = foot(form, np.array([10.0, 20.0, 60.0]))[1]
    moved = Motion(np.eye(3), np.array([100.0, 0.0, 0.0])).form(form)
    found, said = points_again(moved, [at.tolist()], places_of(form, at[None], {}))
    assert found[0] == pytest.approx(at + [100, 0, 0], abs=1e-6)
    assert said == ("The form was changed: the point went with its face.",)
    assert charted(moved) == [False] * 3


def test_triangles_to_look_at_are_made_when_somebody_looks(monkeypatch):
    looks = []
    work = meshing._looked_at
    monkeypatch.setattr(meshing, "_looked_at", lambda form: looks.append(form.name) or work(form))
    made = turned_body(((40, 0), (40, 100), (10, 200)), "cone")
    moved = Motion.about(np.array([0, 0, 1.0]), 30, np.zeros(3), np.array([5.0, 0, 0])).form(made)
    assert len(moved.meshes) == len(made.faces) and moved.area((1,)) > 0 and not looks
    assert [len(mesh.points) for mesh in moved.meshes] == [len(mesh.points) for mesh in made.meshes] and looks == [
        "cone"
    ]
    np.testing.assert_allclose(np.ptp(moved.meshes[0].points[:, 2]), np.ptp(made.meshes[0].points[:, 2]), atol=1e-9)
