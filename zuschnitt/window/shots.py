"""Pictures of the window, made from the demo data."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from pathlib import Path

from PyQt6.QtWidgets import QApplication

from ..core.errors import CannotBeDone, WrongCall
from ..core.job.route import Job
from .main_window import MainWindow

PATIENCE = 300.0
"""Seconds to wait for the window to become idle."""


def _select(window: MainWindow, number: int) -> None:
    window.session.select(window.session.job.row(number).id)
    window.card.show_selected()


def _cone(window: MainWindow) -> None:
    _select(window, 20)


def _artwork(window: MainWindow) -> None:
    _select(window, 30)


def _lid(window: MainWindow) -> None:
    _select(window, 70)
    window.stretch()


def _sentence(window: MainWindow) -> None:
    _select(window, 10)
    row = window.session.selected_row
    sentence = window.card.cards[row.id].sentence if row is not None else None
    if sentence is None:
        return
    chip = sentence.chips["cylinder"]
    chip.open()
    if chip.editor is not None:
        chip.editor.setText("rim/2+40")
        chip.editor.textEdited.emit(chip.editor.text())


def _operations(window: MainWindow) -> None:
    _select(window, 20)
    window.card.open_list()


def _traced(window: MainWindow) -> None:
    _select(window, 350)


def _flights(window: MainWindow) -> None:
    _select(window, 390)


def _collar(window: MainWindow) -> None:
    _select(window, 450)


def _empty(window: MainWindow) -> None:
    window.session.start_job(Job())


def _broken(window: MainWindow) -> None:
    _select(window, 70)
    row = window.session.selected_row
    if row is not None:
        window.session.edit("", lambda job: job.set(row.id, "way", "exact"))


def _transition(window: MainWindow) -> None:
    _select(window, 120)


def _awning(window: MainWindow) -> None:
    _select(window, 150)


def _reliefs(window: MainWindow) -> None:
    _select(window, 170)
    window.stretch()


def _compare(window: MainWindow) -> None:
    _select(window, 180)


def _tray(window: MainWindow) -> None:
    _select(window, 210)


def _counter(window: MainWindow) -> None:
    _select(window, 230)


def _drawing(window: MainWindow) -> None:
    _select(window, 240)
    window.session.pick_figures({4})


def _brake(window: MainWindow) -> None:
    _select(window, 260)


def _nest(window: MainWindow) -> None:
    _select(window, 270)


def _bench(window: MainWindow) -> None:
    _select(window, 330)
    window.session.put_together(0.6)


def _print(window: MainWindow) -> None:
    _select(window, 190)
    window.stretch()


VIEWS: dict[str, Callable[[MainWindow], None]] = {
    "cone": _cone,
    "artwork": _artwork,
    "lid": _lid,
    "transition": _transition,
    "awning": _awning,
    "reliefs": _reliefs,
    "compare": _compare,
    "print": _print,
    "tray": _tray,
    "counter": _counter,
    "drawing": _drawing,
    "traced": _traced,
    "brake": _brake,
    "nest": _nest,
    "bench": _bench,
    "flights": _flights,
    "collar": _collar,
    "sentence": _sentence,
    "operations": _operations,
    "empty": _empty,
    "broken": _broken,
}


def require_view(view: str) -> None:
    """Raises WrongCall for a view that there is not."""
    if view not in VIEWS:
        raise WrongCall(f"There is no view '{view}'; the views are {', '.join(VIEWS)}.")


def wait_idle(application: QApplication, window: MainWindow) -> None:
    """Until every row has a state, and what follows from it is drawn."""
    end = time.monotonic() + PATIENCE
    while not window.session.idle:
        application.processEvents()
        time.sleep(0.01)
        if time.monotonic() > end:
            raise CannotBeDone("The window did not become idle in five minutes; try again, or take a smaller job.")
    until = time.monotonic() + 0.4
    while time.monotonic() < until:  # the picture at rest follows the last change
        application.processEvents()
        time.sleep(0.01)


def take_shots(application: QApplication, window: MainWindow, shots: Sequence[Sequence[str]]) -> int:
    """Brings the window to one view after the other, waits, and saves each as a PNG: (view, file)."""
    try:
        for view, file in shots:
            wait_idle(application, window)
            VIEWS[view](window)
            wait_idle(application, window)
            if not window.grab().save(str(Path(file))):
                raise CannotBeDone(f"{file} cannot be written; check the folder, and that its name ends in .png.")
    finally:
        window.session.close()
    return 0
