"""Two things held against each other: hairs on the form, and the worst place one click away."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from zuschnitt.core.job.route import Job

from .conftest import opened, settle
from .test_window import LEFT

THROUGH = "-80, -40, 31; 0, 50, 40; 80, -40, 31"


@pytest.fixture
def window(application, tmp_path):
    job = Job(thickness="1").added("domed_lid", length="240", width="150", crown="50", corner="0", hole="0")
    for between in ("smooth", "shortest"):
        job = job.added("draw_curve", form=job.rows[0].id, through=THROUGH, between=between)
    made = opened(tmp_path, job.added("hold_against", one=job.rows[1].id, other=job.rows[2].id))
    window = next(made)
    window.session.select(window.session.job.rows[-1].id)
    settle(window)
    yield window
    made.close()


def test_hairs_are_seen_and_the_worst_place_is_one_click_away(window):
    session, stage = window.session, window.form_stage
    held = session.value(session.selected_row, "held")
    assert held.largest > 1
    sets = stage.picture.lines.sets
    count = [
        sets[name].actor.GetMapper().GetInput().GetNumberOfLines() for name in ("held near", "held off", "held far")
    ]
    assert sum(count) == len(held.hairs) and all(count)
    stage.grab()
    area = dict(stage._offers)["worst"]
    before = stage.camera.scale
    QTest.mouseClick(stage, LEFT, Qt.KeyboardModifier.NoModifier, QPoint(area.center().toPoint()))
    assert stage.camera.target == pytest.approx(held.worst) and stage.camera.scale > 2 * before
    at = stage.pixels(held.worst[None])[0]
    assert at == pytest.approx(np.array(stage.room) / 2, abs=1)
    session.select(session.job.rows[1].id)
    settle(window)
    assert sets["held far"].actor.GetMapper().GetInput().GetNumberOfLines() == 0
    stage.grab()
    assert "worst" not in dict(stage._offers)
