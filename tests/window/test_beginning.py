"""A new row from the list: its tool is on at once, it stands where it works, and one undo takes all of it back."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tests.window.conftest import opened, settle
from zuschnitt.core.job.route import Job
from zuschnitt.core.operations.registry import entries

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def window(application, tmp_path):
    """A lid developed, another form nearer above."""
    job = Job(name="Lid").added("domed_lid").added("turned_body")
    job = job.added("develop", form=job.rows[0].id)
    made = opened(tmp_path, job)
    window = next(made)
    window.session.select(job.rows[-1].id)
    settle(window)
    yield window
    next(made, None)


def choose(window, words: str) -> None:
    """The operation is found in the list by what is typed."""
    QTest.keyClick(window, Qt.Key.Key_N)
    QApplication.processEvents()
    QTest.keyClicks(window.focusWidget(), words)
    QTest.keyClick(window.focusWidget(), Qt.Key.Key_Return)
    settle(window)


def click_on_form(window, across: float, down: float) -> None:
    """At a part of the way across and down the lid as it is drawn."""
    stage = window.form_stage
    pixels = stage.pixels(stage.picture.points)
    low, high = pixels.min(axis=0), pixels.max(axis=0)
    x, y = low + (high - low) * [across, down]
    QTest.mouseClick(stage, LEFT, pos=QPoint(round(x), round(y) + stage.height() - round(stage.room[1])))
    QApplication.processEvents()


def test_a_relief_is_drawn_in_three_clicks_and_its_blank_is_seen(window):
    session = window.session
    before = session.job
    lid, _, blank = before.rows
    choose(window, "Draw a relief")
    new = session.selected_row
    assert [row.operation for row in session.job.rows] == ["domed_lid", "turned_body", "draw_relief", "develop"]
    assert window.form_stage.form() is session.value(lid, "form") and window.form_stage.tool.picks == "points"
    assert window.blank_stage.blank() is session.value(blank, "blank")
    click_on_form(window, 0.30, 0.60)
    click_on_form(window, 0.42, 0.52)
    settle(window)
    assert session.selected_row.id == new.id and session.states[new.id].status == "done"
    assert session.states[blank.id].status == "done"
    assert session.job.row(blank.id).parameters["reliefs"] == new.id
    for _ in range(8):
        session.undo()
    assert session.job == before


def test_adding_it_is_one_step(window):
    before = window.session.job
    choose(window, "Draw a relief")
    window.session.undo()
    assert window.session.job == before


def test_a_curve_goes_on_the_form_that_is_seen_not_on_the_nearest_above(window):
    lid = window.session.job.rows[0]
    choose(window, "Draw a curve")
    assert window.session.wanted.name == "through" and window.form_stage.form_row().id == lid.id


def test_what_is_asked_for_is_said_calmly(window):
    choose(window, "Lay stations")
    state = window.session.states[window.session.selected]
    assert state.status == "waiting" and state.lacks and "wait for their distances" in state.reason


def test_an_operation_is_found_by_its_title_among_others_that_fit_too(window):
    operations = window.card.list
    for known in entries().values():
        operations.lines.narrow(known.title)
        assert operations.lines.shown[operations.lines.chosen] is known, known.title
    operations.lines.narrow("relief curves")
    assert operations.lines.shown[operations.lines.chosen].title == "Take reliefs from curves"
    operations.lines.narrow("no such words")
    assert not operations.lines.shown
