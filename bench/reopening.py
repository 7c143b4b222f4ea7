"""How soon a row is seen in a kept job that is opened again: from its being selected to both stages showing it.

The demo, and a job of 400 rows, each computed once so that its results are kept, and then opened by a process of its
own, which selects rows at random: one after another from its first picture on, while the other rows are still being
read, and again when all are there. The yardstick is drawing both stages once more, a little wider.
"""

from __future__ import annotations

import os
import random
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from long_job import long_job
from waiting import pumped

ROWS = 40
STILL = 0.1
"""Both stages are done where neither was drawn for so many seconds."""


def _job(name: str):
    from zuschnitt.demo.job import demo_job

    return demo_job() if name == "demo" else long_job()


def computed(name: str) -> None:
    """Opens the job and waits until all of it is computed and kept."""
    from zuschnitt.window.start import prepared

    application, window = prepared(None, False, None)
    window.session.autosave = None
    window.session.start_job(_job(name))
    window.show()
    pumped(application, lambda: window.session.idle, 900)
    window.session.close()


def reopened(name: str) -> None:
    """Prints what the selections take."""
    from zuschnitt.window.start import prepared

    begin = time.perf_counter()
    painted = Painted()
    application, window = prepared(None, False, None)
    session = window.session
    session.autosave = None
    session.start_job(_job(name))
    window.show()
    pumped(application, lambda: window.form_stage.form() and window.blank_stage.blank())
    window.grab()
    print(f"{name:<10}first picture after {time.perf_counter() - begin:.2f} s", flush=True)
    dice = random.Random(7)
    rows = [row.id for row in session.job.rows]
    chosen = dice.sample(rows, min(ROWS, len(rows)))
    for when in ("being read", "at rest"):
        printed(name, when, [selected(application, window, painted, row_id) for row_id in chosen])
        if when == "being read":
            print(f"{'':<10}{len(session.pending)} rows still to be read")
            pumped(application, lambda: session.idle)
    printed(name, "yardstick", [drawn(application, window, painted) for _ in range(10)])
    session.close()


class Painted:
    """When either stage was last drawn, to the end of its drawing."""

    def __init__(self) -> None:
        from zuschnitt.window.stages.blank_stage import BlankStage
        from zuschnitt.window.stages.form_stage import FormStage

        self.last = 0.0
        for stage in (BlankStage, FormStage):
            stage.paintEvent = self._told(stage.paintEvent)

    def _told(self, paint):
        def told(stage, event) -> None:
            paint(stage, event)
            self.last = time.perf_counter()

        return told


def selected(application, window, painted: Painted, row_id: str) -> tuple[float, float]:
    """Seconds from the selection to the end of the last drawing that follows from it, and of the window's thread."""
    session = window.session
    begin, worked = time.perf_counter(), time.thread_time()
    session.select(row_id)
    pumped(application, lambda: row_id not in session.pending)
    there = time.perf_counter()
    pumped(application, lambda: time.perf_counter() - max(there, painted.last) > STILL)
    return max(there, painted.last) - begin, time.thread_time() - worked


def drawn(application, window, painted: Painted) -> tuple[float, float]:
    """The same from the window being made a little wider."""
    begin, worked = time.perf_counter(), time.thread_time()
    window.resize(window.width() + 1, window.height())
    pumped(application, lambda: time.perf_counter() - max(begin, painted.last) > STILL)
    return max(begin, painted.last) - begin, time.thread_time() - worked


def printed(name: str, kind: str, found: list[tuple[float, float]]) -> None:
    seconds = sorted(each for each, _ in found)
    worked = statistics.median(each for _, each in found)
    ninth = seconds[int(0.9 * (len(seconds) - 1))]
    over = sum(s > 0.5 for s in seconds)
    print(
        f"{name:<10}{kind:<12}median {statistics.median(seconds):.3f}  nine tenths {ninth:.3f}  "
        f"worst {seconds[-1]:.3f} s; {over} of {len(seconds)} over 0.5 s; "
        f"the window's thread {worked:.3f} s",
        flush=True,
    )


def main() -> None:
    if len(sys.argv) == 3:
        {"compute": computed, "reopen": reopened}[sys.argv[1]](sys.argv[2])
        return
    for name in ("demo", "400 rows"):
        with tempfile.TemporaryDirectory() as cache:
            environment = {**os.environ, "XDG_CACHE_HOME": cache}
            for what in ("compute", "reopen"):
                command = [sys.executable, str(Path(__file__)), what, name]
                subprocess.run(command, env=environment, check=True)


if __name__ == "__main__":
    main()
