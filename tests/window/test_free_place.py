"""Artwork that is brought in lands where there is room, and has numbers once it is moved."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QPoint

from zuschnitt.core.job.route import Job
from zuschnitt.window.layers.handles import frame_of

from .conftest import opened, settle
from .test_window import drag

LOGO = '<svg xmlns="http://www.w3.org/2000/svg" width="{0}mm" height="{0}mm" viewBox="0 0 9 9"><path d="M0,0 H9 V9 H0 Z"/></svg>'
PLATE = Job(thickness="1").added("make_block", width="300", depth="100", height="20").added("develop", faces="6")


@pytest.fixture
def window(application, tmp_path):
    made = opened(tmp_path, PLATE)
    yield next(made)
    made.close()


def bring(window, tmp_path, size):
    """A square drawing dropped on the window: the new row."""
    path = tmp_path / f"logo{size}.svg"
    path.write_text(LOGO.format(size))
    window.session.select(window.session.job.rows[-1].id)
    window.take_file(path)
    settle(window)
    row = window.session.job.rows[-1]
    assert row.operation == "place_artwork"
    window.session.select(row.id)
    settle(window)
    return row


def test_it_lands_in_the_middle_is_dragged_and_keeps_its_size(window, tmp_path):
    session = window.session
    row = bring(window, tmp_path, 20)
    blank = session.value(session.job.row(20), "blank")
    left, bottom, right, top = blank.bounds
    frame = frame_of(window.blank_stage.scene(), row)
    assert frame.mean(axis=0) == pytest.approx([(left + right) / 2, (bottom + top) / 2], abs=0.1)
    assert [window.card.cards[row.id].sentence.chips[name].words for name in "xy"] == ["a free x", "a free y"]

    larger = bring(window, tmp_path, 900)
    outcome = session.states[larger.id].outcome
    assert "larger than the largest free place" in outcome.messages[0]
    frame = frame_of(window.blank_stage.scene(), larger)
    view = window.blank_stage.view
    start = view.to_pixels(frame.mean(axis=0)[None])[0]
    drag(window.blank_stage, QPoint(*np.round(start).astype(int)), QPoint(*np.round(start + [9, 6]).astype(int)))
    settle(window)
    moved = frame_of(window.blank_stage.scene(), larger)
    assert moved - frame == pytest.approx(np.tile(np.array([9, -6]) / view.scale, (4, 1)), abs=1.5 / view.scale)
    written = session.job.row(larger.id).parameters
    assert float(written["scale"]) == pytest.approx(outcome.result("artwork").landed[2], abs=1e-4)
    assert float(written["x"]) and float(written["y"])
    assert session.states[larger.id].outcome.messages == ()
