"""Dragging artwork of 5,000 and of 200,000 points on the demo cone, end to end: mouse event to picture on both stages.

The yardstick is the same window turned about, which draws the same picture without carrying anything.
"""

from __future__ import annotations

import os
import time

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from zuschnitt.core.job.route import Asset
from zuschnitt.window.start import prepared

MOVES = 60
POINTS = (5_000, 200_000)
LEFT = Qt.MouseButton.LeftButton


def spiral(points: int) -> bytes:
    """An SVG path of so many points."""
    t = np.linspace(0, 1, points)
    at = np.stack([60 + 50 * t * np.cos(60 * t), 60 + 50 * t * np.sin(60 * t)], axis=1)
    path = "M" + " L".join(f"{x:.4f},{y:.4f}" for x, y in at)
    head = '<svg xmlns="http://www.w3.org/2000/svg" width="120mm" height="120mm" viewBox="0 0 120 120">'
    return f'{head}<path d="{path}"/></svg>'.encode()


def idle(application, session) -> None:
    while not session.idle:
        application.processEvents()
        time.sleep(0.005)
    application.processEvents()


def pictures_per_second(application, work) -> float:
    """``work(k)`` is done for each move, and all that it asks to be drawn is drawn."""
    begin = time.perf_counter()
    for k in range(MOVES):
        work(k)
        application.processEvents()
    return MOVES / (time.perf_counter() - begin)


def main() -> None:
    from zuschnitt.window.layers.handles import frame_of

    application, window = prepared(None, True, None)
    window.show()
    session, stage = window.session, window.blank_stage
    painted = []
    paint = window.form_stage._picture
    window.form_stage._picture = lambda: (painted.append(1), paint())[1]
    idle(application, session)
    print(f"{MOVES} moves each, pictures per second")
    print(f"{'points':>8} {'run':>4} {'turning':>8} {'dragging':>9} {'form drawn':>11}")
    for points in POINTS:
        asset = Asset(f"spiral{points}.svg", spiral(points))
        session.edit("", lambda job, asset=asset: job.with_asset(asset).set("d30", "file", asset.name))
        session.select("d30")
        idle(application, session)
        frame = frame_of(stage.scene(), session.job.row(30))
        start = QPoint(*np.round(stage.view.to_pixels(frame.mean(axis=0)[None])[0]).astype(int))
        for run in range(3):
            turning = pictures_per_second(application, lambda k: (window.form_stage.look_by(1.0, 0.0), stage.update()))
            painted.clear()
            QTest.mousePress(stage, LEFT, pos=start)
            dragging = pictures_per_second(
                application, lambda k, start=start: QTest.mouseMove(stage, start + QPoint(k % 40, k % 25))
            )
            drawn = len(painted)
            QTest.mouseMove(stage, start)
            QTest.mouseRelease(stage, LEFT, pos=start)
            idle(application, session)
            print(f"{points:>8,} {run + 1:>4} {turning:>8.1f} {dragging:>9.1f} {drawn:>11}")
    session.close()


if __name__ == "__main__":
    main()
