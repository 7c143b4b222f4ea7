"""What would help stands in the card as a link; one click takes it, one undo takes it back."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from zuschnitt.core.route import Job
from zuschnitt.window.card.link import Link

from .conftest import opened, settle


@pytest.fixture
def window(application, tmp_path):
    """A dome of 60, whose ribs at ±42 cross each other at its rim, where there is hardly any height."""
    job = Job(thickness="6").added("make_dome", diameter="120", height="60", wall="0")
    made = opened(tmp_path, job.added("make_ribs", list_x="-42, 0, 42", list_y="-42, 0, 42"))
    yield next(made)
    made.close()


def test_one_click_takes_advice(window):
    session = window.session
    row = session.job.rows[-1]
    session.select(row.id)
    settle(window)
    said = session.states[row.id].outcome
    assert "hold poorly" in said.messages[0] and said.remedies
    words = said.remedies[0].words
    link = next(link for link in window.card.cards[row.id].findChildren(Link) if link.text().strip() == words)
    QTest.mouseClick(link, Qt.MouseButton.LeftButton)
    settle(window)
    after = session.states[row.id].outcome
    assert len(after.messages) < len(said.messages)
    session.undo()
    assert session.job.row(row.id).parameters == row.parameters
