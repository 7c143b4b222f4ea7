"""Without a display: the demo job, or another, written out with its blanks, cut files and pictures."""

from __future__ import annotations

import os
import subprocess
import sys
from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path

from ..core.errors import Refused
from ..core.files.outputs import Outputs
from ..core.files.report import report_bytes
from ..core.job.evaluate import State, run_all
from ..core.job.job_file import job_bytes, load_job
from ..core.results.result import Printing
from ..engine.store import Store
from .terminal import say, terminal_progress
from .whole_job import job_report

VIEWS = ("cone", "lid")


def run_headless(job_path: Path | None, folder: Path) -> int:
    """Writes the job, a report, a DXF and SVG of each cut file, STEP of each wrap, and pictures of the demo."""
    from ..demo.job import demo_job

    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise Refused(f"{folder} cannot be made: {error.strerror}; choose another folder.") from error
    job = demo_job() if job_path is None else load_job(job_path)
    with terminal_progress(False) as progress:
        states = run_all(job, progress)
    outputs = Outputs()
    outputs.add(folder / "job.zuschnitt", job_bytes(job))
    outputs.add(folder / "report.json", report_bytes(job_report(job, states, None)))
    for row in job.rows:
        outcome = states[row.id].outcome
        for result in outcome.results if outcome is not None else ():
            for ending in result.whole:
                path = folder / f"{row.number}-{row.operation}.{ending}"
                outputs.add(path, result.content(ending, job.name, Printing()))
    outputs.write()
    written = [path for path, _ in outputs.files]
    if job_path is None:
        _keep(states)
        written.extend(_pictures(folder))
    say(str(path) for path in written)
    return 0


def _keep(states: Mapping[str, State]) -> None:
    """Lets the window of the pictures find what has been computed; without room for it, it computes once more."""
    with suppress(OSError):
        store = Store()
        for state in states.values():
            if state.outcome is not None:
                store.put(state.key, state.outcome)


def _pictures(folder: Path) -> list[Path]:
    """In a process of its own, as --shot makes them."""
    made = [folder / f"{view}.png" for view in VIEWS]
    shots = [word for view, path in zip(VIEWS, made, strict=True) for word in ("--shot", view, str(path))]
    subprocess.run(
        [sys.executable, "-m", "zuschnitt", "--demo", *shots],
        env={**os.environ, "QT_QPA_PLATFORM": "offscreen"},
        stderr=subprocess.DEVNULL,
        check=True,
    )
    return made
