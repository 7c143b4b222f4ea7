"""What a row draws is hidden by one key, whatever it is, and seen again by the same key: on the stages at once."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tests.window.conftest import colours, opened, settle
from zuschnitt.core.job.route import Job
from zuschnitt.window.stages.stage import HEAD


def job() -> Job:
    made = Job(name="Hidden").added("turned_body").added("develop").added("circle_grid").added("wrap")
    return made.added("draw_curve", through="0, -200, 500; 60, -190, 560", form=made.rows[0].id)


@pytest.fixture
def window(application, tmp_path):
    yield from opened(tmp_path, job())


def picture(stage) -> np.ndarray:
    """What is seen of a stage below its head, as colours (h, w, 3)."""
    QApplication.processEvents()
    return colours(stage)[HEAD:]


def differs(one: np.ndarray, other: np.ndarray) -> int:
    return int((np.abs(one - other).max(axis=2) > 24).sum())


def still(window) -> list[np.ndarray]:
    """Both stages, the form drawn as finely as when it is at rest."""
    settle(window)
    window.form_stage._at_rest()
    return [picture(stage) for stage in (window.form_stage, window.blank_stage)]


@pytest.mark.parametrize(
    "number, form, blank", [(10, 20_000, 0), (20, 0, 2000), (30, 0, 2000), (40, 800, 0), (50, 20, 0)]
)
def test_it_goes_at_once_and_comes_back_as_it_was(window, number, form, blank):
    """At least so many pixels change on the form stage and on the blank stage; of what draws nothing there, few."""
    session = window.session
    session.select(session.job.row(number).id)
    shown = still(window)
    card = window.card.cards[session.selected]
    card.setFocus()
    QTest.keyClick(card, Qt.Key.Key_X)
    hidden = still(window)
    assert "hidden on the stages" in card._state.text() and not session.pending
    for was, now, most in zip(shown, hidden, (form, blank), strict=True):
        changed = differs(was, now)
        assert changed >= most if most else changed < 2000, changed
    QTest.keyClick(card, Qt.Key.Key_X)
    assert [differs(was, now) for was, now in zip(shown, still(window), strict=True)] == [0, 0]


def test_nothing_of_a_hidden_form_is_under_the_mouse_and_the_stage_says_where_it_is_hidden(window):
    session, stage = window.session, window.form_stage
    body, blank = session.job.row(10), session.job.row(20)
    session.select(body.id)
    still(window)
    middle = QPointF(stage.width() / 2, HEAD + stage.room[1] / 2)
    assert stage.under(middle) is not None
    window.row_unseen()
    still(window)
    assert stage.under(middle) is None and stage.about == "hidden (X shows it)"
    session.select(blank.id)
    still(window)
    assert stage.about == "hidden in row 10" and window.blank_stage.about.startswith("exact")
    window.row_unseen()
    still(window)
    assert window.blank_stage.about == "hidden (X shows it)"
