"""The desktop turns dark while the window is open: the window then looks as one that was opened in the dark."""

from __future__ import annotations

from types import SimpleNamespace

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication

from tests.window.conftest import colours, opened, settle
from zuschnitt.core.job.route import Job
from zuschnitt.window import theme


@pytest.fixture
def desktop(application, monkeypatch):
    """Turns dark, or light again."""
    schemes = Qt.ColorScheme

    def turn(dark: bool) -> None:
        hints = SimpleNamespace(colorScheme=lambda: schemes.Dark if dark else schemes.Light)
        monkeypatch.setattr(theme, "QGuiApplication", SimpleNamespace(styleHints=lambda: hints))
        theme.turned(application)

    yield turn
    monkeypatch.undo()
    theme.turned(application)


def pixels(window) -> np.ndarray:
    for _ in range(3):
        QApplication.processEvents()
    return colours(window)


def seen(window, job: Job) -> list[np.ndarray]:
    """The window with each of the rows selected in turn."""
    found = []
    for row in job.rows:
        window.session.select(row.id)
        settle(window)
        window.form_stage._at_rest()
        found.append(pixels(window))
    return found


def test_a_window_that_is_open_looks_as_if_it_had_been_opened_in_the_dark(application, tmp_path, desktop):
    job = Job(name="Cone").added("turned_body").added("develop").added("cut_file")
    job = job.added("bring_in").changed(job.rows[1].id, note="seam at the back")
    job = job.set(job.rows[1].id, "faces", "9")  # broken
    made = opened(tmp_path, None)
    window = next(made)
    window.session.start_job(job)
    settle(window)
    light = seen(window, job)
    assert {"done", "broken", "waiting"} <= {state.status for state in window.session.states.values()}
    desktop(True)
    turned = seen(window, job)
    next(made, None)

    made = opened(tmp_path / "again", None)
    window = next(made)
    window.session.start_job(job)
    settle(window)
    seen(window, job)  # both have had each row selected before
    for before, after, from_the_start in zip(light, turned, seen(window, job), strict=True):
        assert np.abs(after - from_the_start).max() <= 8
        assert (np.abs(after - before).max(axis=2) > 60).mean() > 0.9
    desktop(False)
    assert (np.abs(seen(window, job)[0] - light[0]).max(axis=2) > 60).mean() < 1e-3
    next(made, None)
