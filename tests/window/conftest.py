"""The real window on the demo job, idle."""

from __future__ import annotations

import os
import time
from collections.abc import Iterator

import numpy as np
import pytest

# a virtual screen without a window manager never makes a window active, so keys would go nowhere
os.environ["QT_QPA_PLATFORM"] = "offscreen"

from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QApplication

from zuschnitt.demo.job import cyclone_and_lid
from zuschnitt.engine import crew
from zuschnitt.window.autosave import Autosave
from zuschnitt.window.garbage import Garbage
from zuschnitt.window.main_window import MainWindow
from zuschnitt.window.session import Session
from zuschnitt.window.theme import dress

PATIENCE = 120.0


@pytest.fixture(scope="session")
def kept(tmp_path_factory):
    return tmp_path_factory.mktemp("kept")


@pytest.fixture(autouse=True)
def results_in_common(state_of_its_own, kept, monkeypatch):
    """Windows of these tests find what earlier ones have computed, as a user's do."""
    monkeypatch.setenv("XDG_CACHE_HOME", str(kept))


@pytest.fixture(autouse=True)
def engines_begin_at_once(nursery, monkeypatch):
    """They are the real ones, but for their imports, which are done once for all windows."""
    monkeypatch.setattr(crew, "begin_template", nursery.begin_template)


@pytest.fixture(scope="session")
def application():
    made = QApplication.instance() or QApplication(["zuschnitt"])
    Garbage(made)
    dress(made)
    return made


def wait(done, what: str) -> None:
    """Lets the window work until ``done`` says so."""
    end = time.monotonic() + PATIENCE
    while not done():
        QApplication.processEvents()
        time.sleep(0.005)
        assert time.monotonic() < end, f"waited in vain for {what}"


def settle(window: MainWindow) -> None:
    """Until the engine has nothing more to do, and what it said is shown."""
    wait(lambda: window.session.idle, "the engine")
    for _ in range(5):
        QApplication.processEvents()


def colours(widget) -> np.ndarray:
    """What is seen of a widget, as colours (h, w, 3)."""
    image = widget.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
    bits = image.constBits()
    bits.setsize(image.sizeInBytes())
    return np.frombuffer(bits, np.uint8).reshape(image.height(), image.width(), 4)[..., :3].astype(int)


def opened(tmp_path, job) -> Iterator[MainWindow]:
    """A window on a job; it ends without asking."""
    session = Session(autosave=Autosave(tmp_path / "autosave"))
    made = MainWindow(session)
    if job is not None:
        session.start_job(job)
    made.resize(1280, 800)
    made.show()
    made.activateWindow()
    settle(made)
    yield made
    session.close()
    made.hide()
    made.deleteLater()
    QApplication.processEvents()


@pytest.fixture
def window(application, tmp_path):
    """The window with the demo job."""
    yield from opened(tmp_path, cyclone_and_lid())


@pytest.fixture
def empty_window(application, tmp_path):
    """The window with nothing in it."""
    yield from opened(tmp_path, None)
