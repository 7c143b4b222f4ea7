"""Faces that are new on a body, and the lines that hatch them."""

from __future__ import annotations

import numpy as np
import pytest

from tests.sheet_parts import block, drill, form, joined, without
from zuschnitt.core.form.changed import new_faces
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
