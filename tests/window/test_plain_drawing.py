"""A drawing that is brought in lies on no blank: it has the blank's stage to itself while its row is selected."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from tests.window.conftest import colours, opened, settle
from zuschnitt.core.job.route import Asset, Job

PLATE = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="90mm" height="60mm" viewBox="0 0 90 60">'
    b'<path d="M0,0H90V60H0Z"/><circle cx="30" cy="30" r="12"/></svg>'
)


@pytest.fixture
def window(application, tmp_path):
    job = Job().with_asset(Asset("plate.svg", PLATE)).added("turned_body").added("develop").added("cut_file")
    made = opened(tmp_path, job.added("bring_in_drawing", file="plate.svg"))
    yield next(made)
    next(made, None)


def picture(window) -> np.ndarray:
    return colours(window.blank_stage)[40:-30]


def test_it_is_seen_hidden_and_gone_with_its_selection(window):
    session, stage = window.session, window.blank_stage
    session.select(session.job.rows[-1].id)
    settle(window)
    words = [layer.alone(stage.scene()) for layer in stage.layers]
    assert "2 curves" in words
    seen = picture(window)
    for there in (False, True):
        QTest.keyClick(window.card, Qt.Key.Key_X)
        settle(window)
        changed = (picture(window) != seen).any(axis=2).sum()
        assert changed == 0 if there else changed > 1000
    session.select(session.job.rows[2].id)  # the cut file of a blank shows its blank
    settle(window)
    assert not any(layer.alone(stage.scene()) for layer in stage.layers)
