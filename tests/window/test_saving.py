"""Two windows on one job: the second to save is told, and loses nothing."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from zuschnitt.core.job.job_file import load_job, save_job
from zuschnitt.core.job.route import Job
from zuschnitt.window.saved_file import SavedElsewhereError, SavedFile, beside

from .conftest import settle


def press(window, words: str) -> None:
    (button,) = (button for button in window.notice._buttons if button.text() == words)
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    settle(window)


@pytest.fixture
def twice_open(window, tmp_path):
    """The window with its job saved, and another one that has saved the same file since."""
    path = tmp_path / "cyclone.zuschnitt"
    assert window.session.save(path)
    save_job(path, Job("theirs"))
    window.session.edit("", lambda job: job.set("d10", "cone", "430"))
    window.save()
    return window, path


def test_the_second_to_save_is_told_and_writes_nothing(twice_open):
    window, path = twice_open
    assert "saved by another window meanwhile" in window.notice.label.text() and window.notice.isVisible()
    assert load_job(path).name == "theirs" and window.session.unsaved


def test_it_may_save_beside(twice_open):
    window, path = twice_open
    press(window, "save beside it")
    other = path.with_name("cyclone 2.zuschnitt")
    assert load_job(path).name == "theirs" and load_job(other) == window.session.job
    assert window.session.path == other and not window.session.unsaved


def test_it_may_save_in_its_place_and_then_as_usual(twice_open):
    window, path = twice_open
    press(window, "save in its place")
    assert load_job(path) == window.session.job and not window.session.unsaved
    window.session.edit("", lambda job: job.set("d10", "cone", "440"))
    assert window.save() and load_job(path) == window.session.job


def test_a_file_that_is_gone_is_simply_saved(window, tmp_path):
    path = tmp_path / "job.zuschnitt"
    window.session.save(path)
    path.unlink()
    assert window.save() and load_job(path) == window.session.job


def test_of_many_that_save_at_once_one_does(tmp_path):
    path = tmp_path / "job.zuschnitt"
    save_job(path, Job("first"))
    known = SavedFile.now(path)

    def save(number: int) -> str:
        try:
            known.save(Job(str(number)))
        except SavedElsewhereError:
            return ""
        return str(number)

    with ThreadPoolExecutor(8) as pool:
        done = [name for name in pool.map(save, range(8)) if name]
    assert len(done) == 1 and load_job(path).name == done[0]


def test_names_beside_are_free(tmp_path):
    path = tmp_path / "job.zuschnitt"
    for name in ("job", "job 2", "job 3"):
        (tmp_path / f"{name}.zuschnitt").write_bytes(b"")
    assert beside(path).name == "job 4.zuschnitt"
