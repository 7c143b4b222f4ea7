"""Several faces made one clean patch: how far it lies from them, measured against what is known of them."""

from __future__ import annotations

import numpy as np
import pytest

from zuschnitt.core.develop.developing import develop
from zuschnitt.core.errors import CannotBeDone, Refused
from zuschnitt.core.form.build import domed_lid, turned_body
from zuschnitt.core.form.clean_patch import clean_patch
from zuschnitt.core.kernel.step_in import read_step_bytes
from zuschnitt.core.solids.shape import form_step

LID = np.array([[100, -70, 0], [100, 70, 0], [-100, 70, 0], [-100, -70, 0.0]])


def grid_of(form, count=41):
    """Points (count, count, 3) at even parameters of the one face of a form."""
    surface = form.faces[0].surface
    share = np.linspace(0, 1, count)
    uv = np.stack(np.meshgrid(*(share * end for end in surface.bounds[1::2]), indexing="ij"), axis=-1)
    return surface.evaluate(uv.reshape(-1, 2)).reshape(count, count, 3)


def test_an_eighth_of_a_ball_gets_four_sides(form):
    """Three-sided, so its longest side is parted; against the ball itself."""
    given = form("octant")
    made = clean_patch(given, [face.number for face in given.faces], 0.01)
    points = grid_of(made.form).reshape(-1, 3)
    radius = np.linalg.norm(points, axis=1)
    wanted = np.linalg.norm(given.meshes[0].points, axis=1).max()
    assert np.abs(radius - wanted).max() <= made.deviation_max * 1.2 <= 0.012
    assert made.form.faces[0].area == pytest.approx(sum(face.area for face in given.faces), rel=1e-4)
    assert len(made.form.edges) == 4
    assert any("three sides" in said for said in made.messages)


def test_a_trimmed_lid_is_evenly_spaced_and_keeps_its_outer_side():
    given = domed_lid(200, 140, 20, 30, 40)
    made = clean_patch(given, [1], 0.05, LID)
    x, y, z = grid_of(made.form).reshape(-1, 3).T
    assert np.abs(z - (20 - 10 * (x / 100) ** 2 - 10 * (y / 70) ** 2)).max() <= 0.05
    points = grid_of(made.form)
    spans = np.linalg.norm(np.diff(points, axis=0), axis=2)
    assert spans[:, 10:31].max() / spans[:, 10:31].min() < 1.5
    assert made.form.faces[0].outward(np.array([[80.0, 60.0]]))[0, 2] > 0.9
    whole = domed_lid(200, 140, 20, 30, 0)
    assert made.form.faces[0].area == pytest.approx(whole.faces[0].area, rel=1e-4)
    assert "runs on over 1 hole" in made.messages[0]


@pytest.mark.parametrize("turn", [1, -1])
def test_corners_run_round_either_way(turn):
    """Named the other way round, the patch is the same and looks outward all the same."""
    made = clean_patch(domed_lid(200, 140, 20, 30, 0), [1], 0.05, LID[::turn])
    assert made.form.faces[0].outward(np.array([[80.0, 60.0]]))[0, 2] > 0.9
    at = grid_of(made.form)[0, 0]
    assert np.linalg.norm(at[:2] - LID[:, :2], axis=1).min() < 25


@pytest.mark.parametrize("name", ["joggle", "wave", "sine", "three_smooth"])
def test_faces_that_run_on_smoothly_become_one(form, name):
    given = form(name)
    made = clean_patch(given, [face.number for face in given.faces], 0.05)
    assert made.deviation_max <= 0.05
    assert made.form.faces[0].area == pytest.approx(sum(face.area for face in given.faces), rel=1e-3)
    blank = develop(made.form, [1], "even")
    assert blank.correspondence.round_trip(grid_of(made.form, 9)[1:-1, 1:-1].reshape(-1, 3)) < 1e-6


def test_it_is_written_and_read_as_one_face():
    made = clean_patch(domed_lid(200, 140, 20, 30, 40), [1], 0.05, LID).form
    again = read_step_bytes(form_step(made), "a")
    assert len(again.faces) == 1
    assert again.faces[0].area == pytest.approx(made.faces[0].area, rel=1e-7)


def test_what_has_no_four_sides_is_refused(form):
    lid = domed_lid(200, 140, 20, 0, 0)
    with pytest.raises(Refused, match="four corners; 3"):
        clean_patch(lid, [1], 0.05, LID[:3])
    with pytest.raises(Refused, match="Corners 1 and 3 are one place"):
        clean_patch(lid, [1], 0.05, LID[[0, 1, 0, 3]])
    with pytest.raises(Refused, match="do not follow each other"):
        clean_patch(lid, [1], 0.05, LID[[0, 2, 1, 3]])
    with pytest.raises(Refused, match="no outline"):
        clean_patch(form("box"), range(1, 7), 0.05)
    with pytest.raises(Refused, match="no corner only"):
        clean_patch(turned_body([(100, 0), (40, 150)]), [1], 0.05)
    with pytest.raises(CannotBeDone, match="away from the faces"):
        clean_patch(form("box"), [1, 3], 1e-4)
