"""Points that were clicked stay with their face when the form is given other measures."""

from __future__ import annotations

import numpy as np
import pytest

from zuschnitt.core.form.build import domed_lid, turned_body
from zuschnitt.core.form.persistent_points import places_of, points_again
from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.route import Job


def turned(points, angle):
    c, s = np.cos(angle), np.sin(angle)
    return np.asarray(points, float) @ np.array([[c, s, 0], [-s, c, 0], [0, 0, 1]])


@pytest.mark.parametrize("angle", [0.0, 1.0, 3.0, 5.5])
def test_on_a_cone_they_keep_their_angle_and_their_share_of_its_height(angle):
    small, large = turned_body([(50, 0), (20, 100)]), turned_body([(80, 0), (30, 160)])
    points = turned([[50 - 30 * t, 0, 100 * t] for t in (0.2, 0.7)], angle)
    found, said = points_again(large, points.tolist(), places_of(small, points, {}))
    assert found == pytest.approx(turned([[80 - 50 * t, 0, 160 * t] for t in (0.2, 0.7)], angle), abs=1e-6)
    assert said == ("The form was changed: 2 of the points went with their faces.",)


def test_points_that_lie_on_their_face_still_stay():
    form, longer = turned_body([(50, 0), (50, 100)]), turned_body([(50, 0), (50, 200)])
    points = np.array([[50, 0, 30.0]])
    found, said = points_again(longer, points.tolist(), places_of(form, points, {}))
    assert (found == points).all() and said == ()
    other = turned_body([(60, 0), (60, 50), (30, 90)])  # another number of faces is another form
    assert (points_again(other, points.tolist(), places_of(form, points, {}))[0] == points).all()


def test_places_that_are_known_are_kept():
    form = domed_lid(200, 150, 30, 0, 0)
    points = form.meshes[0].points[:3]
    known = places_of(form, points, {})
    told = {**known, "at": {name: [1, 0.25, 0.25] for name in known["at"]}}
    assert places_of(form, points, told) == told
    assert places_of(form, points, {**told, "of": 9}) == known


def test_a_drawn_curve_goes_with_the_form():
    job = Job().added("turned_body", top="200", cylinder="100", cone="0")
    through = "100, 0, 20; 0, 100, 60"
    form = next(iter(run_all(job).values())).outcome.value
    places = places_of(form, np.array([[100, 0, 20], [0, 100, 60.0]]), {})
    job = job.added("draw_curve", through=through, remembered={"through": places})
    (curve,) = list(run_all(job).values())[-1].outcome.value
    assert np.hypot(*curve.points[:, :2].T) == pytest.approx(100)
    wider = list(run_all(job.set(job.rows[0].id, "top", "240")).values())[-1].outcome
    assert np.hypot(*wider.value[0].points[:, :2].T) == pytest.approx(120)
    assert wider.value[0].points[[0, -1], 2] == pytest.approx([20, 60])
    assert "went with their faces" in wider.messages[0]


def test_a_hold_point_goes_with_the_form():
    job = Job().added("turned_body", top="200", cylinder="100", cone="0")
    form = next(iter(run_all(job).values())).outcome.value
    places = places_of(form, np.array([[0, 100, 60.0]]), {})
    job = job.added("develop", hold="0, 100, 60", remembered={"hold": places}, seam="opposite")
    wider = list(run_all(job.set(job.rows[0].id, "top", "240")).values())[-1].outcome
    assert wider.value.hold_form == pytest.approx([0, 120, 60], abs=1e-9)
    assert wider.messages == ("The form was changed: the point went with its face.",)
    assert list(run_all(job).values())[-1].outcome.messages == ()
