"""Sheet parts in the real window: hollowed, opened, folded step by step, with the bend table on the blank."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from zuschnitt.core.route import Job
from zuschnitt.core.shop.bend_table import bend_rows, named

from .conftest import opened, settle
from .test_window import LEFT, chip, click_row, drag, state


@pytest.fixture
def window(application, tmp_path):
    job = Job(material="steel sheet", thickness="1.5").added("hollow_block", width="200", depth="120", height="40")
    made = opened(tmp_path, job.added("make_sheet", radius="2"))
    yield next(made)
    made.close()


def write(window, name: str, text: str) -> None:
    """Types a value of row 20."""
    field = chip(window, 20, name)
    QTest.mouseClick(field, LEFT)
    field.editor.selectAll()
    QTest.keyClicks(field.editor, text)
    QTest.keyClick(field.editor, Qt.Key.Key_Return)
    settle(window)


def test_a_tray_is_opened_flanged_and_folded(window):
    assert state(window, 20).status == "broken" and "open 4 edges" in state(window, 20).reason
    click_row(window, 20)
    write(window, "opened", "auto")
    assert state(window, 20).status == "done"
    outcome = window.session.outcome(window.session.job.row(20))
    assert {result.kind for result in outcome.results} == {"form", "blank"}
    blank = outcome.result("blank").value
    rows = bend_rows(blank.folds)
    assert [named(numbers) for numbers, _ in rows] == ["1, 3", "2, 4"]
    assert rows[0][1][:2] == ("90° down", "2")
    plain = window.blank_stage.grab().toImage()
    high = np.ptp(np.array(outcome.value.bounds), axis=0)[2]
    assert high == pytest.approx(40, abs=1e-3)

    window.session.edit("", lambda job: job.set(window.session.job.row(20).id, "stage", "0.5"))
    settle(window)
    field = chip(window, 20, "stage")
    drag(field, QPoint(10, 10), QPoint(10 - 40, 10))  # scrubbed towards the flat: the same blank, another form
    settle(window)
    outcome = window.session.outcome(window.session.job.row(20))
    assert np.ptp(np.array(outcome.value.bounds), axis=0)[2] < 39
    assert outcome.result("blank").value.bounds == pytest.approx(blank.bounds, abs=1e-6)
    assert window.blank_stage.grab().toImage().size() == plain.size()


def test_edges_are_opened_by_clicking_them(window):
    click_row(window, 10)
    click_row(window, 20)
    write(window, "opened", "5, 7, 9, 10")
    assert state(window, 20).status == "done"
    assert window.session.job.row(20).parameters["opened"] == "5, 7, 9, 10"
