"""The slider from flat to formed, over the route card."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from zuschnitt.core.route import Job

from .conftest import opened, settle, wait


@pytest.fixture
def window(application, tmp_path):
    job = Job(thickness="1.5").added("turned_body", top="200", cylinder="0", cone="240", outlet="80").added("develop")
    job = job.added("hollow_block", width="200", depth="120", height="40")
    made = opened(tmp_path, job.added("make_sheet", opened="auto", radius="2"))
    yield next(made)
    made.close()


def test_a_blank_is_folded_by_a_row_that_begins_by_itself(window):
    session, slider = window.session, window.card.folding.slider
    session.select(session.job.row(20).id)
    settle(window)
    assert window.card.folding.isVisible() and slider.value() == slider.maximum()
    QTest.keyClick(slider, Qt.Key.Key_Left)
    settle(window)
    assert [row.number for row in session.job.rows] == [10, 20, 25, 30, 40]
    row = session.selected_row
    assert row.number == 25 and float(row.parameters["share"]) == pytest.approx(1 - 1 / slider.maximum())
    slider.setValue(slider.maximum() // 2)
    settle(window)
    assert session.job.row(25).parameters["share"] == "0.5" and len(session.job.rows) == 5
    before = window.form_stage.grab().toImage()
    slider.setValue(20)
    settle(window)
    assert window.form_stage.grab().toImage() != before
    session.undo()
    assert session.job.row(25).parameters["share"] != "0.1"


def test_a_sheet_part_has_its_own_stage_and_is_played(window):
    session, folding = window.session, window.card.folding
    session.select(session.job.row(40).id)
    settle(window)
    folding.slider.setValue(0)
    settle(window)
    assert session.job.row(40).parameters["stage"] == "0" and len(session.job.rows) == 4
    window.fold()
    wait(lambda: not folding._play.isActive(), "the last stage")
    settle(window)
    assert session.job.row(40).parameters["stage"] == "1"
