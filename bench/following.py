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

from zuschnitt.core.job.route import Asset
from zuschnitt.window.start import prepared

SECONDS = 4.0
RUNS = 3
FAR = 50.0
"""A flange is dragged so many mm, to and fro."""
AWAY = QPoint(40, 25)
"""What lies on the blank is dragged so many pixels."""
TRAY, BADGE, BADGE_RAISED, STUDS = "d210", "d440", "d450", "d490"


def pieces(count: int) -> bytes:
    """So many small blocks in a row, as STEP."""
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox
    from OCP.gp import gp_Pnt

    from zuschnitt.core.kernel.step_out import named_shapes_bytes

    boxes = (BRepPrimAPI_MakeBox(gp_Pnt(0, 5.0 * k, -1), gp_Pnt(12, 5.0 * k + 3, 3)).Shape() for k in range(count))
    return named_shapes_bytes([(f"p{k}", box) for k, box in enumerate(boxes)])


def followed(application, stage, widget, start: QPoint, end: QPoint) -> float:
    """Pictures per second, while the mouse goes from one place of a ``widget`` to another and back."""
    shown = []
    take = stage.picture.glimpse
    stage.picture.glimpse = lambda glimpse: (other := take(glimpse), shown.append(1) if other else None)[0]
    QTest.mousePress(widget, LEFT, pos=start)
    begin = time.perf_counter()
    while (now := time.perf_counter() - begin) < SECONDS:
        part = 0.5 - 0.5 * np.cos(np.pi * now)
        QTest.mouseMove(widget, start + (end - start) * float(part))
        application.processEvents()
    QTest.mouseMove(widget, start)
    QTest.mouseRelease(widget, LEFT, pos=start)
    stage.picture.glimpse = take
    return len(shown) / SECONDS


def turned(application, stage) -> float:
    begin = time.perf_counter()
    for k in range(40):
        stage.look_by(1.0 if k % 2 else -1.0, 0.0)
        application.processEvents()
    return 40 / (time.perf_counter() - begin)


def main() -> None:
    from zuschnitt.window.layers.handles import frame_of
    from zuschnitt.window.layers.tips import tips_of
    from zuschnitt.window.stages.stage import HEAD

    application, window = prepared(None, True, None)
    window.resize(1280, 800)
    window.show()
    session, stage, blank = window.session, window.form_stage, window.blank_stage
    idle(application, session)
    content = pieces(20)

    def at(pixels: np.ndarray, head: float = 0.0) -> QPoint:
        return QPoint(round(float(pixels[0])), round(float(pixels[1] + head)))

    def flange() -> tuple:
        ends = [stage.pixels(np.array([tip.point, tip.point + FAR * tip.way])) for tip in tips_of(session)]
        start, end = max(ends, key=lambda pair: float(np.linalg.norm(pair[1] - pair[0])))
        return stage, at(start, HEAD), at(end, HEAD)

    def badge() -> tuple:
        drawing = session.drawings.now()
        line = np.vstack([contour.points for contour in drawing.drawn[0].contours])
        start = at(blank.view.to_pixels(line[:1])[0])
        return blank, start, start + AWAY

    def standing() -> tuple:
        start = at(blank.view.to_pixels(frame_of(blank.scene(), session.row(STUDS)).mean(axis=0)[None])[0])
        return blank, start, start + AWAY

    cases = (
        ("the flanges of a tray", TRAY, lambda job: job.set(TRAY, "stage", "1"), flange),
        ("a badge raised over a bend", BADGE, lambda job: job.set(BADGE_RAISED, "by", "1.6"), badge),
        (
            "20 pieces bent",
            STUDS,
            lambda job: job.with_asset(Asset("p.step", content)).set_many(
                STUDS, {"file": "p.step", "x": "20", "y": "10", "turn": "0"}
            ),
            standing,
        ),
    )
    print(f"pictures per second, {SECONDS:g} s each")
    print(f"{'':>28} {'run':>4} {'turning':>8} {'following':>10}")
    for title, row_id, change, places in cases:
        session.edit("", change)
        session.select(row_id)
        idle(application, session)
        for run in range(1, RUNS + 1):
            turning = turned(application, stage)
            following = followed(application, stage, *places())
            print(f"{title:>28} {run:>4} {turning:>8.1f} {following:>10.1f}", flush=True)
            idle(application, session)


if __name__ == "__main__":
    main()
