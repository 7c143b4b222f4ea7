"""Faces that are new on a body, and the lines that hatch them."""

from __future__ import annotations

import numpy as np
import pytest

from tests.sheet_parts import block, drill, form, joined, without
from zuschnitt.core.form.changed import new_faces
from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.route import Job
from zuschnitt.window.layers.changed import hatching

PLATE = block((0, 0, 0), (200, 120, 10))
BOSS = drill((60, 50, 10), (0, 0, 1), 15, 6)


@pytest.mark.parametrize(
    "made, areas",
    [
        (joined(PLATE, BOSS), [np.pi * 225, 2 * np.pi * 15 * 6]),
        (without(PLATE, drill((60, 50, 4), (0, 0, 1), 15, 9)), [np.pi * 225, 2 * np.pi * 15 * 6]),
        (without(PLATE, drill((60, 50, -1), (0, 0, 1), 15, 19)), [2 * np.pi * 15 * 10]),
        (PLATE, []),
    ],
    ids=["a boss", "a recess", "a hole", "nothing"],
)
def test_new_are_those_that_lie_on_none_of_before(made, areas):
    after = form(made)
    assert sorted(after.face(n).area for n in new_faces(form(PLATE), after)) == pytest.approx(sorted(areas))


def test_the_hatching_lies_on_the_new_faces():
    after = form(joined(PLATE, BOSS))
    lines = hatching(after, new_faces(form(PLATE), after))
    away = np.linalg.norm(lines[..., :2] - [60, 50], axis=-1)
    assert len(lines) > 20 and (away < 15 + 1e-6).all()
    assert (lines[..., 2] > 10 - 1e-9).all() and (lines[..., 2] < 16 + 1e-9).all()
    top = lines[(lines[..., 2] > 16 - 1e-9).all(axis=1)]
    ways = top[:, 1] - top[:, 0]
    assert np.ptp(np.abs(ways[:, 0] / np.linalg.norm(ways, axis=1))) < 1e-6  # all of one direction


def test_of_stations_the_grooves_are_new_and_not_the_bars():
    """Three grooves of 1.2 x 4 mm, 10 mm set back at both ends, across a block."""
    job = Job().added("make_block", width="200", depth="100", height="30")
    made = run_all(job)[job.rows[-1].id].outcome.value
    top = next(f.number for f, m in zip(made.faces, made.meshes, strict=True) if m.points[:, 2].min() > 29.9)
    job = job.added("lay_stations", faces=str(top), start="-100,0,30", along="1,0,0", spacings="40, 60, 50",
                    bar="round", size="6", tongue="1", depth="4", setback="10", groove="0.2")  # fmt: skip
    made = run_all(job)[job.rows[-1].id].outcome.result("form")
    mine = {number for body in made.value.bodies if body.name != "bars" for number in body.faces}
    areas = sorted(made.value.face(number).area for number in made.new_faces)
    assert len(made.value.bodies) == 4 and set(made.new_faces) < mine
    assert areas == pytest.approx(sorted(3 * [4 * 1.2, 4 * 1.2, 1.2 * 80, 4 * 80, 4 * 80]), rel=1e-6)
