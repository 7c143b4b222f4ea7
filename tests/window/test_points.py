"""Points of a curve on the form: dragged, taken away and put between by the mouse."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from zuschnitt.core.job.route import Job
from zuschnitt.window.layers.point_handles import points_of
from zuschnitt.window.stages.stage import HEAD

from .conftest import opened, settle
from .test_window import LEFT, drag

CONTROL = Qt.KeyboardModifier.ControlModifier
AT = "s, -40, 36.5"


@pytest.fixture
def window(application, tmp_path):
    job = (
        Job(thickness="1")
        .with_value("s", "-60")
        .added("domed_lid", length="240", width="150", crown="50", corner="0", hole="0")
    )
    made = opened(tmp_path, job.added("draw_curve", through=f"{AT}; 0, 0, 50; 60, -40, 36.5"))
    window = next(made)
    window.session.select(window.session.job.rows[-1].id)
    settle(window)
    yield window
    made.close()


def pixel(window, point) -> QPoint:
    x, y = window.form_stage.pixels(np.array([point], float))[0]
    return QPoint(round(x), round(y + HEAD))


def written(window):
    return [part.strip() for part in window.session.selected_row.parameters["through"].split(";")]


def test_points_are_dragged_taken_away_and_put_between(window):
    session, stage = window.session, window.form_stage
    lid = stage.form().face(1).surface
    points = points_of(session)
    assert len(points) == 3 and "drag points" in stage.tool.foot
    before = session.value(session.selected_row, "curves")[0].length
    target = lid.evaluate(lid.project(np.array([[10, -45.0, 35]])))[0]
    drag(stage, pixel(window, points[1]), pixel(window, target))
    settle(window)
    moved = points_of(session)
    assert moved[1] == pytest.approx(target, abs=2.5) and written(window)[0] == AT  # what is written otherwise stays so
    assert session.value(session.selected_row, "curves")[0].length < before - 20
    curve = session.value(session.selected_row, "curves")[0].points
    assert np.linalg.norm(curve - moved[1], axis=1).min() < 0.01

    between = lid.evaluate(lid.project(np.array([[45, -45.0, 33]])))[0]
    QTest.mouseClick(stage, LEFT, CONTROL, pixel(window, between))
    settle(window)
    assert len(written(window)) == 4 and points_of(session)[2] == pytest.approx(between, abs=2.5)
    QTest.mouseClick(stage, LEFT, CONTROL, pixel(window, points_of(session)[1]))
    settle(window)
    assert len(written(window)) == 3 and points_of(session)[1] == pytest.approx(between, abs=2.5)
    for _ in range(3):
        session.undo()
    assert written(window) == [AT, "0, 0, 50", "60, -40, 36.5"]
    QTest.mouseClick(stage, LEFT, pos=pixel(window, points[1]))
    assert written(window) == [AT, "0, 0, 50", "60, -40, 36.5"]  # a click alone changes nothing


def test_points_that_were_placed_go_with_the_form(window):
    session, stage = window.session, window.form_stage
    points = points_of(session)
    lid = stage.form().face(1).surface
    target = lid.evaluate(lid.project(np.array([[10, -45.0, 35]])))[0]
    drag(stage, pixel(window, points[1]), pixel(window, target))
    settle(window)
    before = session.value(session.selected_row, "curves")[0].points
    session.edit("", lambda job: job.set(job.rows[0].id, "length", "300"))
    settle(window)
    after = session.value(session.selected_row, "curves")[0].points
    assert after[:, 0].max() - after[:, 0].min() == pytest.approx((np.ptp(before[:, 0])) * 300 / 240, rel=5e-3)
    assert any("went with their faces" in said for said in session.states[session.selected].outcome.messages)
