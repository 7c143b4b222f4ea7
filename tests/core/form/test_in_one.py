"""Several forms as one: numbers run through, places are as they are or beside each other."""

from __future__ import annotations

import numpy as np
import pytest

from zuschnitt.core.form.build import domed_lid, turned_body
from zuschnitt.core.form.in_one import in_one


def three():
    return turned_body([(50, 0), (30, 100)]), domed_lid(200, 150, 30, 0, 0), turned_body([(20, 0), (20, 400)])


def test_they_stand_as_they_do():
    forms = three()
    made = in_one([[form] for form in forms], beside=False)
    assert [face.number for face in made.faces] == list(range(1, len(made.faces) + 1))
    assert [edge.number for edge in made.edges] == list(range(1, len(made.edges) + 1))
    assert [len(body.faces) for body in made.bodies] == [len(form.faces) for form in forms]
    assert sum(face.area for face in made.faces) == pytest.approx(sum(f.area for form in forms for f in form.faces))
    low, high = made.bounds
    assert low == pytest.approx(np.min([form.bounds[0] for form in forms], axis=0))
    assert high == pytest.approx(np.max([form.bounds[1] for form in forms], axis=0))
    for edge in made.edges:  # each lies on the faces it is said to be of
        points = edge.points(1.0)
        for number in edge.faces:
            surface = made.faces[number - 1].surface
            assert np.linalg.norm(surface.nearest(points) - points, axis=1).max() < 1e-6


def boxes(made):
    return [
        np.array([f(np.vstack([made.meshes[n - 1].points for n in body.faces]), axis=0) for f in (np.min, np.max)])
        for body in made.bodies
    ]


def test_beside_each_other_none_stands_over_another_and_all_on_the_floor():
    made = in_one([[form] for form in three()], beside=True)
    found = boxes(made)
    for k, (low, high) in enumerate(found):
        assert low[2] == pytest.approx(0, abs=1e-9)
        for other_low, other_high in found[:k]:
            assert ((high[:2] < other_low[:2]) | (other_high[:2] < low[:2])).any()


def test_a_group_stays_together():
    a, b, c = three()
    made = in_one([[a, c], [b]], beside=True)
    first, second = boxes(made)[:2]
    assert second[0] - first[0] == pytest.approx(c.bounds[0] - a.bounds[0], abs=1e-9)
