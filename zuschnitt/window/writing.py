"""Writes files from the results of a row, cut files, STEP, STL, G-code, the shop papers of the job, and pictures."""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from PyQt6.QtCore import QProcess

from ..core.errors import ZuschnittError
from ..core.files.atomic import write_whole
from ..core.form.appearance import Looks
from ..core.job.job_file import job_bytes
from ..core.results.form import FormResult
from ..core.results.result import Printing, Result
from .session import Session

FILTERS = {kind: f"{kind.upper()} (*.{kind})" for kind in ("dxf", "svg", "pdf", "step", "stl", "3mf", "nc", "png")}


def write_result(session: Session, row_id: str, kind: str, path: Path) -> None:
    """Writes what the row gives as ``kind`` (dxf, svg, pdf, step, stl), and says how it went."""
    path = path if path.suffix else path.with_suffix(f".{kind}")
    outcome = session.outcome(session.row(row_id))
    if outcome is None:
        session.said.emit("This row has no result to write yet; wait for it, or mend it.", "problem")
        return
    if kind == "step":
        _write_step(session, row_id, path)
        return
    result = outcome.writer(kind)
    assert result is not None
    try:
        write_whole(path, _content(session, row_id, result, kind))
    except ZuschnittError as error:
        session.said.emit(error.sentence, "problem")
        return
    session.said.emit(f"{path.name} is written.", "note")


def _content(session: Session, row_id: str, result: Result, kind: str) -> bytes:
    if kind == "3mf" and isinstance(result, FormResult):
        from ..core.files.threemf import threemf_bytes

        row = session.row(row_id)
        return threemf_bytes(result.value, Looks.of(row.view if row is not None else {}))
    return result.content(kind, session.job.name, Printing())


def write_papers(session: Session, path: Path) -> None:
    """Writes the shop papers of the whole job, and says how it went."""
    from ..core.job.papers import papers_bytes

    path = path if path.suffix else path.with_suffix(".pdf")
    rows = [row for row in session.job.rows if row.enabled and not session.stale(row)]
    done = {row.id: outcome for row in rows if (outcome := session.outcome(row)) is not None}
    try:
        write_whole(path, papers_bytes(session.job, done))
    except ZuschnittError as error:
        session.said.emit(error.sentence, "problem")
        return
    session.said.emit(f"{path.name} is written.", "note")


def _write_step(session: Session, row_id: str, path: Path) -> None:
    """STEP needs the geometry kernel, which never runs in the window: a process of its own writes it."""
    folder = tempfile.TemporaryDirectory()
    job = Path(folder.name) / "job.zuschnitt"
    job.write_bytes(job_bytes(session.job))
    process = QProcess(session)

    def finished(code: int, _status) -> None:
        folder.cleanup()
        if code == 0:
            session.said.emit(f"{path.name} is written.", "note")
        else:
            text = process.readAllStandardError().data().decode(errors="replace").strip().splitlines()
            session.said.emit(text[-1] if text else f"{path.name} could not be written; try again.", "problem")
        process.deleteLater()

    process.finished.connect(finished)
    number = session.job.row(row_id).number
    process.start(
        sys.executable, ["-m", "zuschnitt", "run", str(job), "--row", str(number), "--step", str(path.absolute())]
    )
    session.said.emit(f"Writing {path.name} …", "note")
