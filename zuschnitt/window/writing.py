"""Writes files from the results of a row: cut files, STEP, STL."""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from PyQt6.QtCore import QProcess

from ..core.errors import ZuschnittError
from ..core.files.drawing_file import write_drawing
from ..core.files.job_file import job_bytes
from ..core.files.pdf import write_pdf
from ..core.files.stl import write_stl
from ..core.operations.cut_file import drawing
from .session import Session

FILTERS = {kind: f"{kind.upper()} (*.{kind})" for kind in ("dxf", "svg", "pdf", "step", "stl")}


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
    try:
        if kind in ("dxf", "svg"):
            contours = outcome.value if outcome.kind == "drawing" else drawing(outcome.value, ())
            write_drawing(kind, path, contours, session.job.name)
        elif kind == "pdf":
            write_pdf(path, outcome.value, session.job.name)
        else:
            write_stl(path, outcome.value)
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
            text = bytes(process.readAllStandardError()).decode(errors="replace").strip().splitlines()
            session.said.emit(text[-1] if text else f"{path.name} could not be written; try again.", "problem")
        process.deleteLater()

    process.finished.connect(finished)
    number = session.job.row(row_id).number
    process.start(
        sys.executable, ["-m", "zuschnitt", "run", str(job), "--row", str(number), "--step", str(path.absolute())]
    )
    session.said.emit(f"Writing {path.name} …", "note")
