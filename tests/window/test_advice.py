"""What would help stands in the card as a link; one click takes it, one undo takes it back."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor
from PyQt6.QtTest import QTest

from zuschnitt.core.job.route import Job
from zuschnitt.core.ribs.standing import faces_of
from zuschnitt.window.card.link import Link
from zuschnitt.window.layers.ribs import RING
from zuschnitt.window.stages.stage import HEAD
from zuschnitt.window.theme import theme

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


def test_ribs_stand_as_plates_and_where_they_hold_poorly_is_ringed(window):
    """The form is seen through, its plates are not; a ring of the colour of what is broken is round each such place."""
    session, stage = window.session, window.form_stage
    row = session.job.rows[-1]
    session.select(row.id)
    settle(window)
    made = session.value(row, "ribs")
    places = np.vstack([trouble.at for trouble in made.troubles if "hold poorly" in trouble.words])
    assert len(places) == 4 and np.abs(np.abs(places[:, :2]) - 42).max() < 1e-6

    def reds(radius: float) -> int:
        """At how many of the places the colour lies that far from the middle."""
        picture = stage.grab().toImage()
        dots = (stage.scene().pixels(places) + [radius, HEAD]).round().astype(int)
        seen = np.array([QColor(picture.pixel(*dot)).getRgb()[:3] for dot in dots.tolist()])
        return int((np.abs(seen - QColor(theme().broken).getRgb()[:3]).max(axis=1) < 60).sum())

    assert reds(RING) == 4 and reds(0.0) == 0
    plates = stage.picture.bodies
    assert len(plates.corners) == sum(len(faces_of(rib, made.thickness)) for rib in made.ribs)
    window.session.put_together(0.5)
    settle(window)
    assert reds(RING) == 0 and stage.picture.bodies is not plates
    session.select(session.job.rows[0].id)
    settle(window)
    assert stage.picture.bodies is None
