"""How many pictures a second follow while something is dragged whose row takes longer: mouse event to picture.

The yardstick is the same stage turned about, which draws a picture without computing anything.
"""

from __future__ import annotations

import os
import time

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from dragging import LEFT, idle
from PyQt6.QtCore import QPoint
from PyQt6.QtTest import QTest

from zuschnitt.window.start import prepared

SECONDS = 4.0
RUNS = 3
TRAY = "d210"
FAR = 50.0
"""A flange is dragged so many mm, to and fro."""


def followed(application, stage, start: QPoint, end: QPoint) -> float:
    """Pictures per second, while the mouse goes from one place to another and back."""
    shown = []
    take = stage.picture.glimpse
    stage.picture.glimpse = lambda glimpse: (other := take(glimpse), shown.append(1) if other else None)[0]
    QTest.mousePress(stage, LEFT, pos=start)
    begin = time.perf_counter()
    while (now := time.perf_counter() - begin) < SECONDS:
        part = 0.5 - 0.5 * np.cos(np.pi * now)
        QTest.mouseMove(stage, start + (end - start) * float(part))
        application.processEvents()
    QTest.mouseMove(stage, start)
    QTest.mouseRelease(stage, LEFT, pos=start)
    stage.picture.glimpse = take
    return len(shown) / SECONDS


def turned(application, stage) -> float:
    begin = time.perf_counter()
    for k in range(40):
        stage.look_by(1.0 if k % 2 else -1.0, 0.0)
        application.processEvents()
    return 40 / (time.perf_counter() - begin)


def main() -> None:
    from zuschnitt.window.layers.flange_tips import tips_of
    from zuschnitt.window.stages.stage import HEAD

    application, window = prepared(None, True, None)
    window.resize(1280, 800)
    window.show()
    session, stage = window.session, window.form_stage
    idle(application, session)
    session.edit("", lambda job: job.set(TRAY, "stage", "1"))
    session.select(TRAY)
    idle(application, session)

    def pixels(points: np.ndarray) -> list[QPoint]:
        return [QPoint(round(x), round(y + HEAD)) for x, y in stage.pixels(points)]

    print(f"pictures per second, {SECONDS:g} s each")
    print(f"{'':>24} {'run':>4} {'turning':>8} {'following':>10}")
    for run in range(1, RUNS + 1):
        ends = [pixels(np.array([tip.point, tip.point + FAR * tip.way])) for tip in tips_of(session)]
        start, end = max(ends, key=lambda pair: (pair[1] - pair[0]).manhattanLength())
        turning = turned(application, stage)
        print(
            f"{'the flanges of a tray':>24} {run:>4} {turning:>8.1f} {followed(application, stage, start, end):>10.1f}"
        )
        idle(application, session)


if __name__ == "__main__":
    main()
