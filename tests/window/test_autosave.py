"""What a window leaves behind is offered again, whatever has become of it."""

from __future__ import annotations

import os
import time

import pytest

from zuschnitt.core.errors import Refused
from zuschnitt.core.job.route import Job
from zuschnitt.window.autosave import Autosave

GONE = 2**22 + 7
"""No process has this number."""


def left(folder, pid=GONE, job=b"damaged", about: str | None = '{"name": "lid", "path": null}'):
    folder.mkdir(exist_ok=True)
    file = folder / f"autosave-{pid}.zuschnitt"
    file.write_bytes(job)
    if about is not None:
        file.with_suffix(".json").write_text(about)
    return file


@pytest.mark.parametrize("about", [None, "", "[]", "5", '{"name": 5, "path": []}', "{", "[" * 10_000])
def test_a_damaged_one_is_offered_and_refused_in_a_sentence(tmp_path, about):
    left(tmp_path / "s", about=about)
    (found,) = Autosave(tmp_path / "s").left_behind()
    assert found.saved is None and found.name
    with pytest.raises(Refused, match="not a whole job file"):
        found.job()


def test_one_of_the_same_process_number_is_offered_and_not_overwritten(tmp_path):
    file = left(tmp_path / "s", os.getpid())
    old = time.time() - 10 * 365 * 86400
    os.utime(file, (old, old))
    autosave = Autosave(tmp_path / "s")
    assert autosave.file != file
    autosave.keep(Job("mine"), None, unsaved=True)
    assert file.read_bytes() == b"damaged"
    assert [found.file for found in autosave.left_behind()] == [file]


def test_that_of_a_window_still_open_is_not_offered(tmp_path):
    left(tmp_path / "s", os.getppid())
    assert Autosave(tmp_path / "s").left_behind() == []
