"""Many at once from a table of sizes: any row of it is looked at on the stages, and the files of all are made."""

from __future__ import annotations

import json
import os
import sys
import tempfile
from pathlib import Path

from PyQt6.QtCore import QEvent, QProcess, Qt, QTimer
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import (
    QCheckBox,
    QDialog,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from ..core.batch.ledger import FILE
from ..core.batch.table import TableRow
from ..core.job.job_file import job_bytes
from ..core.job.route import Job
from .file_dialogs import asked_for_folder
from .session import Session
from .theme import font, inked, theme

ENDINGS = {"dxf": "DXF", "svg": "SVG", "pdf": "PDF", "step": "STEP"}
LOOKED = 400
"""What was made is looked for so often, in milliseconds."""
MERGE = "a row of the table"
BAD = Qt.ItemDataRole.UserRole
"""Whether what a cell says is that something went wrong."""


class TableSheet(QDialog):
    """``rows`` of the table ``path``. Closed, the job is as it was, unless a row's values are kept."""

    def __init__(self, session: Session, path: Path, rows: tuple[TableRow, ...], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(path.name)
        self.resize(560, 420)
        self.session, self.path, self.rows = session, path, rows
        self._before: Job = session.job
        self._shown: Job | None = None
        self._folder = Path()
        self._process: QProcess | None = None
        self._scratch: tempfile.TemporaryDirectory[str] | None = None
        self.table = QTableWidget(len(rows), 0)
        self.state = QLabel()
        self.boxes = {ending: QCheckBox(words) for ending, words in ENDINGS.items()}
        self.keep, self.make = QPushButton("Keep this row's values"), QPushButton("Make the files …")
        self._look = QTimer(self, interval=LOOKED)
        self._look.timeout.connect(self._look_for_files)
        self._lay_out()
        self.table.currentCellChanged.connect(lambda row, *_: self.preview(row))

    # --- looking at a row ----------------------------------------------------------------------

    def preview(self, number: int) -> None:
        """The stages show the job with the values of that row."""
        if not 0 <= number < len(self.rows):
            return
        row = self.rows[number]
        if row.wrong:
            self._say(row.wrong, bad=True)
            return
        if self.session.job not in (self._before, self._shown):  # it was edited meanwhile, which stays
            self._before = self.session.job
            self.session.end_step()

        def with_values(_: Job) -> Job:
            job = self._before
            for name, text in row.values:
                job = job.with_value(name, text)
            return job

        refusal = self.session.attempt(f"Look at {row.name}", with_values, MERGE)
        self._shown = self.session.job
        self._say(refusal or f"The stages show {row.name}.", bad=bool(refusal))

    def _keep(self) -> None:
        """The job has the values of the row that is looked at from now on."""
        self.session.end_step()
        self._before, self._shown = self.session.job, None
        self._say("The job has these values now; Ctrl Z brings the others back.")

    def closeEvent(self, event) -> None:
        """What was only looked at is taken back; what is being made is stopped, and what was made stays."""
        if self._shown is not None and self.session.job == self._shown:
            self.session.attempt("", lambda _: self._before, MERGE)
        self.session.end_step()
        if self._process is not None:
            self._process.finished.disconnect()
            self._process.kill()
            self._process.waitForFinished(2000)
        super().closeEvent(event)

    # --- the files of all rows -----------------------------------------------------------------

    def _ask(self) -> None:
        if self._process is not None:
            self._process.terminate()
            return
        folder = asked_for_folder(self, "Where the files go")
        if folder is not None:
            self.begin(folder)

    def begin(self, folder: Path) -> None:
        """Has the files of all rows made there, by processes of their own; what is there already stays."""
        chosen = [f"--{ending}" for ending, box in self.boxes.items() if box.isChecked()]
        if not chosen:
            self._say("Choose which files are made: DXF, SVG, PDF or STEP.", bad=True)
            return
        self._folder = folder
        self._scratch = tempfile.TemporaryDirectory()
        job = Path(self._scratch.name) / "job.zuschnitt"
        job.write_bytes(job_bytes(self._before))
        selected = self.session.selected_row
        row = ["--row", str(selected.number)] if selected is not None else []
        workers = str(len(os.sched_getaffinity(0)))
        call = ["-m", "zuschnitt", "batch", str(job), str(self.path), "--out", str(folder)]
        self._process = QProcess(self)
        self._process.finished.connect(self._ended)
        self._process.start(sys.executable, [*call, "--workers", workers, "--quiet", *row, *chosen])
        self.make.setText("Stop")
        self._look.start()
        self._say(f"Making the files in {folder} …")

    def _look_for_files(self) -> None:
        """The table says which rows are made, by the report that the batch keeps."""
        try:
            made = json.loads((self._folder / FILE).read_text("utf-8"))["rows"]
        except (OSError, ValueError, KeyError):
            return
        stands = {each["name"]: each for each in made}
        for k, row in enumerate(self.rows):
            each = stands.get(row.name)
            if each is not None:
                good = each["status"] == "done"
                self._put(k, ", ".join(each["files"]) if good else each["reason"], bad=not good)
        if self._process is not None:
            self._say(f"{len(stands):,} of {len(self.rows):,} rows are made …")

    def _ended(self, code: int, _status) -> None:
        said = self._process.readAllStandardError().data().decode(errors="replace") if self._process is not None else ""
        self._process = None
        self._look.stop()
        self._look_for_files()
        self.make.setText("Make the files …")
        if self._scratch is not None:
            self._scratch.cleanup()
        last = said.strip().splitlines()[-1] if said.strip() else "It was stopped; what was made stays."
        self._say(f"All files are in {self._folder}." if code == 0 else last, bad=code != 0)

    # --- how it looks --------------------------------------------------------------------------

    def _put(self, row: int, text: str, bad: bool) -> None:
        item = QTableWidgetItem(text)
        item.setData(BAD, bad)
        item.setForeground(QColor(theme().broken if bad else theme().quiet))
        item.setToolTip(text)
        self.table.setItem(row, self.table.columnCount() - 1, item)

    def changeEvent(self, event: QEvent) -> None:
        """What is said in the table's cells has the colours that there are now."""
        super().changeEvent(event)
        if event.type() == QEvent.Type.PaletteChange:
            for row in range(self.table.rowCount()):
                item = self.table.item(row, self.table.columnCount() - 1)
                if item is not None:
                    self._put(row, item.text(), bool(item.data(BAD)))

    def _say(self, text: str, bad: bool = False) -> None:
        self.state.setText(text)
        inked(self.state, "broken" if bad else "quiet")

    def _lay_out(self) -> None:
        heads = list(dict.fromkeys(name for row in self.rows for name, _ in row.values))
        self.table.setColumnCount(len(heads) + 2)
        self.table.setHorizontalHeaderLabels(["name", *heads, "files"])
        for k, row in enumerate(self.rows):
            values = dict(row.values)
            for column, text in enumerate((row.name, *(values.get(head, "") for head in heads))):
                self.table.setItem(k, column, QTableWidgetItem(text))
            self._put(k, row.wrong, bad=True)
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QTableWidget.SelectionMode.SingleSelection)
        self.table.setCurrentCell(-1, -1)
        self.table.setShowGrid(False)
        self.table.setFont(font(12))
        header = self.table.horizontalHeader()
        if header is not None:
            header.setFont(font(11))
            header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
            header.setStretchLastSection(True)
            header.setMinimumSectionSize(72)
            header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        side = self.table.verticalHeader()
        if side is not None:
            side.hide()
            side.setDefaultSectionSize(24)
        self.table.setAccessibleName("the rows of the table")
        hint = QLabel("a row that is chosen is shown on the stages")
        hint.setFont(font(11))
        inked(hint, "quiet")
        kinds = QHBoxLayout()
        for ending, box in self.boxes.items():
            box.setFont(font(12))
            box.setChecked(ending == "dxf")
            kinds.addWidget(box)
        kinds.addStretch(1)
        for button, do in ((self.keep, self._keep), (self.make, self._ask)):
            button.setFont(font(12, bold=button is self.make))
            button.setAutoDefault(False)
            button.clicked.connect(do)
            kinds.addWidget(button)
        self.state.setFont(font(12))
        self.state.setWordWrap(True)
        layout = QVBoxLayout(self)
        layout.addWidget(hint)
        layout.addWidget(self.table, 1)
        layout.addWidget(self.state)
        layout.addLayout(kinds)
