"""The window used at random, with the demo job: how much was done, and what went wrong.

Rows are selected, keys are pressed, and both stages are clicked on and dragged over, now and then faster than anything
can be computed. An error that reaches the toolkit is printed with what was done before it. ``bench/clicking.py
--seconds 200 --seed 3`` does the same again as far as the machine's speed allows.
"""

from __future__ import annotations

import argparse
import os
import random
import sys
import time
import traceback
from collections import deque
from collections.abc import Callable
from contextlib import suppress

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QEvent, QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QDialog, QWidget

from zuschnitt.window.main_window import MainWindow
from zuschnitt.window.shortcuts import KEYS
from zuschnitt.window.start import prepared

LEFT_OUT = {"new", "open", "save", "save_as", "menu", "keys"}
"""What asks for a file, or leaves the demo job."""
ACTIONS = [name for group in KEYS.values() for _, name, _ in group if name not in LEFT_OUT]
OTHER_KEYS = [Qt.Key.Key_Escape, Qt.Key.Key_Tab, Qt.Key.Key_Return, Qt.Key.Key_Up, Qt.Key.Key_Left, Qt.Key.Key_Plus]
BUTTONS = [Qt.MouseButton.LeftButton, Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton]


class User:
    """Does one thing after the other; ``done`` are the last ones."""

    def __init__(self, window: MainWindow, seed: int) -> None:
        self.window, self.random = window, random.Random(seed)
        self.done: deque[str] = deque(maxlen=6)
        self.ways: list[Callable[[], str]] = [self.select, self.act, self.act, self.click, self.drag, self.press]

    def do(self) -> None:
        self.done.append(self.random.choice(self.ways)())
        for widget in QApplication.topLevelWidgets():
            if isinstance(widget, QDialog) and widget.isVisible():
                widget.close()

    def select(self) -> str:
        row = self.random.choice(self.window.session.job.rows)
        self.window.session.select(row.id)
        return f"select {row.number}"

    def act(self) -> str:
        name = self.random.choice(ACTIONS)
        self.window._act(name)  # as its key does
        return name

    def click(self) -> str:
        stage = self._stage()
        at = self._place(stage)
        QTest.mouseClick(stage, self.random.choice(BUTTONS), pos=at)
        return f"click {stage.accessibleName()} {at.x()}, {at.y()}"

    def drag(self) -> str:
        stage, button = self._stage(), self.random.choice(BUTTONS)
        start, end = self._place(stage), self._place(stage)
        QTest.mousePress(stage, button, pos=start)
        for at in ((start + end) / 2, end):
            QTest.mouseMove(stage, at)
            let_work(0.02)
        QTest.mouseRelease(stage, button, pos=end)
        return f"drag {stage.accessibleName()} {start.x()}, {start.y()} to {end.x()}, {end.y()}"

    def press(self) -> str:
        key = self.random.choice(OTHER_KEYS)
        QTest.keyClick(QApplication.focusWidget() or self.window, key)
        return key.name

    def _stage(self) -> QWidget:
        both = [self.window.form_stage, self.window.blank_stage]
        return self.random.choice([stage for stage in both if stage.isVisible()] or [self.window.card])

    def _place(self, widget: QWidget) -> QPoint:
        return QPoint(self.random.randrange(max(1, widget.width())), self.random.randrange(max(1, widget.height())))


def let_work(seconds: float) -> None:
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        QApplication.processEvents()
        time.sleep(0.002)
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=float, default=200)
    parser.add_argument("--seed", type=int, default=1)
    asked = parser.parse_args()
    _, window = prepared(None, True, None)
    window.resize(1280, 800)
    window.show()
    user, wrong = User(window, asked.seed), 0

    def heard(kind: type[BaseException], error: BaseException, trace: object) -> None:
        nonlocal wrong
        wrong += 1
        print("after", " · ".join(user.done), "".join(traceback.format_exception(error)), sep="\n", flush=True)

    sys.excepthook = heard
    end, count = time.monotonic() + asked.seconds, 0
    while time.monotonic() < end:
        try:
            user.do()
        except Exception as error:
            heard(type(error), error, None)
        count += 1
        let_work(user.random.choice((0.0, 0.03, 0.1, 0.4)))
        if not window.session.job.rows:
            window.session.undo()
    print(f"{count} things done, {wrong} errors, {len(window.session.job.rows)} rows left")
    with suppress(Exception):
        window.session.close()
    os._exit(1 if wrong else 0)


if __name__ == "__main__":
    main()
