"""Starts the window."""

from __future__ import annotations

import gc
import os
import sys
from pathlib import Path

from ..core.errors import CannotBeDone
from ..desktop.registering import ICON

FIRST_PICTURE = 300
"""What is not seen waits for so many ms, until the window has been drawn once."""
AT_LEISURE = 700
"""After so many ms what takes long to be read is read: the first letters or freeform faces would want it at once."""


def start(path: Path | None, demo: bool, shots: list[list[str]] | None) -> int:
    """Opens the window on a job, the demo job, or an empty one; or takes pictures, each (view, file), and ends."""
    if shots is not None:
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    elif not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY") or os.environ.get("QT_QPA_PLATFORM")):
        raise CannotBeDone(
            "There is no display to open a window on; use the commands (zuschnitt develop --help), or --headless."
        )
    if shots is not None:
        from .shots import require_view

        for view, _ in shots:
            require_view(view)
    application, window = prepared(path, demo, shots is not None)
    window.show()
    if shots is not None:
        from .shots import take_shots

        return take_shots(application, window, shots)
    autosave = window.session.autosave
    if autosave is not None and (left := autosave.left_behind()):
        window.offer(autosave, left[0])
    _let_interrupts_through(application)
    return application.exec()


def prepared(path: Path | None, demo: bool, pictures: bool):
    """The application and its window on a job, not shown yet; its rows are already being computed.

    For ``pictures`` it is the demo job where no other is named, and nothing is saved by itself.
    """
    from ..engine.engine import Engine

    engine = Engine(only_seen=True)  # its process starts while this one still imports the toolkit
    from PyQt6.QtCore import QTimer
    from PyQt6.QtGui import QIcon
    from PyQt6.QtWidgets import QApplication

    from .autosave import Autosave
    from .garbage import Garbage
    from .session import Session
    from .theme import dress

    application = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(application, QApplication)
    Garbage(application)
    application.setApplicationName("Zuschnitt")
    application.setDesktopFileName("zuschnitt")
    application.setWindowIcon(QIcon(str(ICON)))
    dress(application)
    session = Session(engine, None if pictures else Autosave())
    if demo or (pictures and path is None):  # the engine begins while the window is still being built
        session.start_job(_demo())
    from .main_window import MainWindow

    window = MainWindow(session)
    if path is not None:
        window.open_path(path, asked=True)
    QTimer.singleShot(FIRST_PICTURE, engine.go_on)
    QTimer.singleShot(FIRST_PICTURE, gc.freeze)  # the program itself is never garbage
    QTimer.singleShot(AT_LEISURE, _read_ahead)
    return application, window


def _read_ahead() -> None:
    """In a thread of its own, since it takes half a second."""
    from threading import Thread

    def read() -> None:
        import scipy.interpolate
        import scipy.spatial  # noqa: F401

        from ..core.plane.lettering import lettering

        lettering("0", 1.0)

    Thread(target=read, daemon=True).start()


def _demo():
    from ..demo.job import demo_job

    return demo_job()


def _let_interrupts_through(application) -> None:
    """Ctrl-C in the terminal closes the window as its own button would."""
    import signal

    from PyQt6.QtCore import QTimer

    signal.signal(signal.SIGINT, lambda *_: application.closeAllWindows())
    timer = QTimer(application)
    timer.timeout.connect(lambda: None)
    timer.start(400)
