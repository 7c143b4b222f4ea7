"""How soon an edit is answered while long rows are being computed: from the edit to its row's new result in the window.

The demo, and a job of 400 rows, each opened with nothing kept on disk; the edits come while the engine is busy. The
yardstick is the same edit when nothing runs.
"""

from __future__ import annotations

import os
import statistics
import tempfile
import time

from long_job import long_job
from waiting import pumped

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

EDITS = 8
WAIT = 1.0


def edited(application, session, row_id: str, name: str, first: int) -> tuple[list[float], float]:
    """Seconds from each edit of a row to its new result, one edit a second; and the window's longest pause."""
    found, longest = [], 0.0
    session.select(row_id)
    for value in range(first, first + EDITS):
        begin = time.perf_counter()
        session.edit("", lambda job, value=value: job.set(row_id, name, value))
        longest = max(longest, pumped(application, lambda: row_id not in session.pending))
        found.append(time.perf_counter() - begin)
        until = time.perf_counter() + WAIT
        longest = max(longest, pumped(application, lambda until=until: time.perf_counter() > until))
    return found, longest


def measured(name: str, job, row_id: str) -> None:
    """Prints what ``edited`` finds for a job that is just being computed, and then at rest."""
    from zuschnitt.window.start import prepared

    os.environ["XDG_CACHE_HOME"] = tempfile.mkdtemp()
    application, window = prepared(None, True, None)
    session = window.session
    session.autosave = None
    session.start_job(job)
    window.show()
    until = time.perf_counter() + 4.0
    pumped(application, lambda: session.runs and time.perf_counter() > until)
    printed(name, f"busy, {len(session.pending)} rows to do", *edited(application, session, row_id, "cone", 400))
    if name == "demo":
        pumped(application, lambda: session.idle)
        printed(name, "at rest", *edited(application, session, row_id, "cone", 450))
    session.close()
    window.deleteLater()
    application.processEvents()


def printed(name: str, kind: str, seconds: list[float], longest: float) -> None:
    median, worst, best = statistics.median(seconds), max(seconds), min(seconds)
    print(f"{name:<10}{kind:<24}{median:>9.3f}{worst:>9.3f}{best:>9.3f}{longest:>16.3f}", flush=True)


def main() -> None:
    from zuschnitt.demo.job import demo_job

    print(f"{'job':<10}{'':<24}{'median':>9}{'worst':>9}{'best':>9}{'window silent':>16}  s")
    measured("demo", demo_job(), "d10")
    measured("400 rows", long_job(), "f5")


if __name__ == "__main__":
    main()
