"""Curves of a drawing that came with too much in it are taken away and brought back with the mouse."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from zuschnitt.core.job.route import Asset, Job

from .conftest import opened, settle
from .test_window import LEFT, drag

DRAWING = b"""<svg xmlns="http://www.w3.org/2000/svg" width="200mm" height="100mm" viewBox="0 0 200 100" fill="none">
<path stroke="red" d="M10,10 H190 V90 H10 Z"/><path stroke="blue" d="M20,50 H180"/><path stroke="blue" d="M100,20 V80"/>
<circle stroke="blue" cx="40" cy="30" r="5"/><circle stroke="blue" cx="60" cy="30" r="5"/></svg>"""


@pytest.fixture
def window(application, tmp_path):
    job = Job().with_asset(Asset("a.svg", DRAWING)).added("thin_drawing", file="a.svg", tolerance="0.05")
    made = opened(tmp_path, job)
    window = next(made)
    window.session.select(window.session.job.rows[-1].id)
    settle(window)
    yield window
    made.close()


def pixel(window, x, y) -> QPoint:
    at = window.blank_stage.view.to_pixels(np.array([[x, y]], float))[0]
    return QPoint(*np.round(at).astype(int))


def test_curves_are_taken_away_by_click_and_box_and_come_back(window):
    session, stage = window.session, window.blank_stage
    result = lambda: session.states[session.selected].outcome.result("drawing")  # noqa: E731
    assert len(result().value) == 5 and stage.tool is stage._curves
    x0, y0, x1, y1 = stage._extent(stage.scene())
    assert (x1 - x0, y1 - y0) == pytest.approx((180, 80))
    top = y1 + 10  # of the sheet
    QTest.mouseClick(stage, LEFT, pos=pixel(window, 150, top - 50))  # the level line, which crosses the other one
    settle(window)
    assert len(result().value) == 4 and len(result().away) == 1 and not result().away[0].closed
    assert np.ptp(result().away[0].points[:, 0]) == pytest.approx(160)
    drag(stage, pixel(window, 30, top - 20), pixel(window, 75, top - 40))
    settle(window)
    assert len(result().value) == 2 and sum(contour.closed for contour in result().away) == 2
    QTest.mouseClick(stage, LEFT, pos=pixel(window, 150, top - 50))
    settle(window)
    assert len(result().value) == 3 and len(result().away) == 2
    drag(stage, pixel(window, 90, top - 15), pixel(window, 120, top - 40))  # touches one and holds none
    assert len(result().value) == 3
    drag(stage, pixel(window, 90, top - 15), pixel(window, 120, top - 40), modifier=Qt.KeyboardModifier.ControlModifier)
    settle(window)
    assert len(result().value) == 2
    session.edit("", lambda job: job.set(session.selected, "tolerance", "1"))  # another tolerance: the same are gone
    settle(window)
    assert len(result().value) == 2 and len(result().away) == 3
    for _ in range(5):
        session.undo()
    settle(window)
    assert len(result().value) == 5
