"""The window: top line, three stages, figures."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QEvent, QSize, Qt
from PyQt6.QtGui import QAction, QCloseEvent, QKeySequence, QShortcut
from PyQt6.QtWidgets import (
    QApplication,
    QMainWindow,
    QMenu,
    QMessageBox,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from ..core.errors import ZuschnittError
from ..core.files.reading import content_of
from ..core.form.appearance import Looks
from ..core.job.beginning import begun
from ..core.job.job_file import ENDING
from ..core.job.route import Job, Row
from ..core.operations.registry import GROUPS, Entry, entries
from ..core.parameters.source import Source
from .all_bodies import WAYS
from .autosave import Autosave, Left
from .card.route_card import RouteCard
from .card.row_card import row_numbers
from .figures_bar import FiguresBar
from .file_dialogs import asked_to_open, asked_to_write, offered_name
from .notice import Notice
from .recent import recent_jobs, remember_job
from .saved_file import SavedElsewhereError, beside
from .session import Session, file_name_of
from .shortcuts import KEYS, KeySheet
from .stages.blank_stage import BlankStage
from .stages.form_stage import FormStage
from .theme import font
from .top_bar import TopBar
from .writing import FILTERS, write_papers, write_result

FILTER = f"Zuschnitt job (*{ENDING})"
WIDTHS = [470, 340, 470]


class MainWindow(QMainWindow):
    """Shows one session. Its actions are the methods named in the table of keys."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.resize(QSize(1280, 800))
        self.top = TopBar(session)
        self.notice = Notice()
        self.form_stage = FormStage(session)
        self.card = RouteCard(session)
        self.blank_stage = BlankStage(session)
        self.figures = FiguresBar(session)
        self.stages = QSplitter(Qt.Orientation.Horizontal)
        self.stages.setHandleWidth(1)
        self.stages.setChildrenCollapsible(False)
        for stage in (self.form_stage, self.card, self.blank_stage):
            self.stages.addWidget(stage)
        self.stages.setStretchFactor(0, 1)
        self.stages.setStretchFactor(1, 0)
        self.stages.setStretchFactor(2, 1)
        self.stages.setSizes(WIDTHS)
        middle = QWidget()
        layout = QVBoxLayout(middle)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        for widget in (self.top, self.notice):
            layout.addWidget(widget)
        layout.addWidget(self.stages, 1)
        layout.addWidget(self.figures)
        self.setCentralWidget(middle)
        self._wide: QWidget | None = None
        session.said.connect(self._said)
        session.saved_changed.connect(self._title)
        self.top.menu_asked.connect(self.menu)
        self.card.write_asked.connect(self.write)
        self.form_stage.wide_asked.connect(self.form_wide)
        self.blank_stage.wide_asked.connect(self.blank_wide)
        for rows in KEYS.values():
            for key, name, _ in rows:
                shortcut = QShortcut(QKeySequence(key), self)
                shortcut.activated.connect(lambda n=name: self._act(n))
        self.setAcceptDrops(True)
        self._title()

    def _act(self, name: str) -> None:
        if name.startswith("view_"):
            self.form_stage.look(name.removeprefix("view_"))
        else:
            getattr(self, name)()

    def all_faces(self) -> None:
        self.form_stage.faces.pick_all()

    def same_kind(self) -> None:
        self.form_stage.faces.pick_same_kind()

    def same_body(self) -> None:
        self.form_stage.faces.pick_same_body()

    def other_faces(self) -> None:
        self.form_stage.faces.pick_others()

    def hide_face(self) -> None:
        self.form_stage.faces.hide_face()

    def show_faces(self) -> None:
        self.form_stage.faces.show_faces()

    def _said(self, text: str, kind: str) -> None:
        self.notice.say(self.session.words(text), kind)

    def _title(self) -> None:
        self.setWindowTitle(f"{self.session.job.name}[*] — Zuschnitt")
        self.setWindowModified(self.session.unsaved)

    # --- the job -------------------------------------------------------------------------------

    def menu(self) -> None:
        """The job menu, below the job's name."""
        menu = QMenu(self)
        menu.setFont(font(13))
        entries = (
            ("New job", "Ctrl+N", self.new), ("Open …", "Ctrl+O", self.open),
        )  # fmt: skip
        for words, key, do in entries:
            self._entry(menu, words, key, do)
        recent = menu.addMenu("Open recent")
        if recent is not None:
            recent.setFont(font(13))
            for path in recent_jobs():
                self._entry(recent, str(path), "", lambda p=path: self.open_path(p))
            recent.setEnabled(bool(recent_jobs()))
        self._entry(menu, "Open the demo job", "", self.open_demo)
        menu.addSeparator()
        self._entry(menu, "Save", "Ctrl+S", self.save)
        self._entry(menu, "Save as …", "Ctrl+Shift+S", self.save_as)
        self._entry(menu, "Rename the job …", "", self.rename)
        self._entry(menu, "Write the shop papers …", "", self.papers)
        self._entry(menu, "A table of sizes …", "", self.open_table, bool(self.session.job.rows))
        self._entry(menu, "Picture of the form …", "", self.show_picture, self.form_stage.form() is not None)
        menu.addSeparator()
        history = self.session.history
        self._entry(menu, f"Undo {history.undo_what.lower()}".strip(), "Ctrl+Z", self.undo, bool(history.past))
        self._entry(menu, f"Redo {history.redo_what.lower()}".strip(), "Ctrl+Shift+Z", self.redo, bool(history.future))
        menu.addSeparator()
        self._entry(menu, "Keys …", "F1", self.keys)
        self._entry(menu, "Close", "", self.close)
        self.open_menu = menu
        menu.popup(self.top.mapToGlobal(self.top.job_button.geometry().bottomLeft()))

    def _entry(self, menu: QMenu, words: str, key: str, do, enabled: bool = True) -> None:
        action = QAction(f"{words}\t{key}" if key else words, menu)
        action.triggered.connect(lambda _: do())
        action.setEnabled(enabled)
        menu.addAction(action)

    def new(self) -> None:
        if self._may_leave():
            self.session.start_job(Job())

    def open(self) -> None:
        if self._may_leave():
            path = asked_to_open(self, "Open a job", FILTER)
            if path is not None:
                self.open_path(path, asked=True)

    def open_path(self, path: Path, asked: bool = False) -> bool:
        """Opens a job; ``asked`` that what is unsaved may go."""
        if not asked and not self._may_leave():
            return False
        opened = self.session.open(path)
        if opened:
            remember_job(path)
        return opened

    def open_demo(self) -> None:
        from ..demo.job import demo_job

        if self._may_leave():
            self.session.start_job(demo_job())

    def save(self) -> bool:
        if self.session.path is None:
            return self.save_as()
        return self._save_to(self.session.path)

    def save_as(self) -> bool:
        offered = str(self.session.path or file_name_of(self.session.job))
        path = asked_to_write(self, "Save the job", offered, FILTER)
        return path is not None and self._save_to(path)

    def _save_to(self, path: Path, over: bool = False) -> bool:
        try:
            saved = self.session.save(path, over)
        except SavedElsewhereError as error:
            self.notice.say(
                error.sentence,
                "problem",
                ("save beside it", lambda: self._save_to(beside(path))),
                ("save in its place", lambda: self._save_to(path, over=True)),
            )
            return False
        if saved and self.session.path is not None:
            remember_job(self.session.path)
        return saved

    def rename(self) -> None:
        self.top.rename()

    def undo(self) -> None:
        self.session.undo()

    def redo(self) -> None:
        self.session.redo()

    def stop(self) -> None:
        self.session.stop()

    def keys(self) -> None:
        KeySheet(self).open()

    def write(self, row_id: str, kind: str) -> None:
        """Asks where to, and writes a row's result."""
        offered = offered_name(self.session, self.session.job.row(row_id), kind)
        path = asked_to_write(self, f"Write {kind.upper()}", offered, FILTERS[kind])
        if path is not None:
            write_result(self.session, row_id, kind, path)

    def papers(self) -> None:
        """Asks where to, and writes the papers of the whole job."""
        stem = file_name_of(self.session.job).removesuffix(ENDING)
        path = asked_to_write(self, "Write the shop papers", f"{stem}.pdf", FILTERS["pdf"])
        if path is not None:
            write_papers(self.session, path)

    def open_table(self) -> None:
        """Asks for a table, whose rows are looked at, and whose files are made."""
        path = asked_to_open(self, "A table of sizes", "CSV (*.csv)")
        if path is not None:
            self.show_table(path)

    def show_table(self, path: Path) -> None:
        from ..core.batch.table import read_table  # a window that opens needs neither this nor pictures
        from .table_sheet import TableSheet

        try:
            rows = read_table(content_of(path), path.name, self.session.job)
        except ZuschnittError as error:
            self.notice.say(error.sentence, "problem")
            return
        self.table = TableSheet(self.session, path, rows, self)
        self.table.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.table.show()

    def show_picture(self) -> None:
        """The form as a picture, seen as it is on the stage."""
        from .picture_sheet import PictureSheet

        form, row = self.form_stage.form(), self.session.nearby("form")
        if form is not None and row is not None:
            self.picture = PictureSheet(self.session, row.id, form, self.form_stage.camera, self)
            self.picture.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
            self.picture.show()

    def offer(self, autosave: Autosave, left: Left) -> None:
        """Offers a job that a crash has left behind."""

        def take() -> None:
            try:
                job = left.job()
            except ZuschnittError as error:  # kept as it is: what it holds may be got out of it by hand
                self.notice.say(error.sentence, "problem")
                return
            if self._may_leave():
                self.session.start_job(job, left.saved, saved=False)
                autosave.discard(left)

        self.notice.say(
            f"'{left.name}' was not saved when the window ended at {left.at:%H:%M on %d %B}.",
            "note",
            ("take it up again", take),
            ("throw it away", lambda: autosave.discard(left)),
        )

    def _may_leave(self) -> bool:
        """Asks what to do with unsaved changes; False where the user stays."""
        if not self.session.unsaved or not self.session.job.rows:
            return True
        box = QMessageBox(self)
        box.setWindowTitle("Unsaved changes")
        box.setText(f"'{self.session.job.name}' has changes that are not saved.")
        save = box.addButton("Save them", QMessageBox.ButtonRole.AcceptRole)
        drop = box.addButton("Lose them", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Stay here", QMessageBox.ButtonRole.RejectRole)
        box.setDefaultButton(save)
        box.exec()
        if box.clickedButton() is save:
            return self.save()
        return box.clickedButton() is drop

    # --- rows ----------------------------------------------------------------------------------

    def next(self) -> None:
        self.card.open_list()

    def values(self) -> None:
        self.card.toggle_values()

    def _step(self, by: int) -> None:
        rows = self.session.job.rows
        if rows:
            here = next((i for i, row in enumerate(rows) if row.id == self.session.selected), -by)
            chosen = rows[max(0, min(len(rows) - 1, here + by))].id
            self.session.select(chosen)
            self.card.show_selected()
            self.card.cards[chosen].setFocus()

    def row_before(self) -> None:
        self._step(-1)

    def row_after(self) -> None:
        self._step(1)

    def _with_row(self, what: str, make) -> None:
        row = self.session.selected_row
        if row is not None:
            self.session.edit(what, lambda job: make(job, row))

    def row_up(self) -> None:
        self._with_row("Move a row", lambda job, row: job.moved(row.id, -1))

    def row_down(self) -> None:
        self._with_row("Move a row", lambda job, row: job.moved(row.id, 1))

    def row_off(self) -> None:
        self._with_row("Switch a row", lambda job, row: job.changed(row.id, enabled=not row.enabled))

    def row_unseen(self) -> None:
        """What the selected row draws on the stages is hidden, or shown again."""

        def changed(job: Job, row: Row) -> Job:
            looks = Looks.of(row.view)
            return job.changed(row.id, view=replace(looks, unseen=not looks.unseen).view)

        self._with_row("Hide a row", changed)

    def name_chapter(self) -> None:
        self.card.name_chapter()

    def fold_chapter(self) -> None:
        self.card.fold_chapter()

    def row_remove(self) -> None:
        row = self.session.selected_row
        takers = self.session.job.takers(row) if row is not None else []
        self._with_row("Remove a row", lambda job, row: job.removed(row.id))
        if takers:
            said = f"Removed, though {row_numbers(takers)} took its result; Ctrl Z brings it back."
            self.session.said.emit(said, "note")

    # --- stages --------------------------------------------------------------------------------

    def bodies(self) -> None:
        """Shows all bodies of the job in the next way, and at last one at a time again."""
        ways = list(WAYS)
        self.session.show_bodies(ways[(ways.index(self.session.bodies) + 1) % len(ways)])

    def _widen(self, stage: QWidget) -> None:
        """Gives a stage the whole width, or gives it back."""
        self._wide = None if self._wide is stage else stage
        for each in (self.form_stage, self.card, self.blank_stage):
            each.setVisible(self._wide in (None, each))
        for each in (self.form_stage, self.blank_stage):
            each.wide = self._wide is each
        if self._wide is None:
            self.stages.setSizes(WIDTHS)

    def form_wide(self) -> None:
        self._widen(self.form_stage)

    def card_wide(self) -> None:
        self._widen(self.card)

    def blank_wide(self) -> None:
        self._widen(self.blank_stage)

    def stretch(self) -> None:
        """The next face of both stages: as it is, stretch, compression."""
        self.form_stage.next_mode()
        modes = [key for key, _ in self.form_stage.modes]
        self.blank_stage.show_mode(self.blank_stage.modes[modes.index(self.form_stage.mode)][0])

    def fold(self) -> None:
        self.card.folding.play()

    def fit(self) -> None:
        self.form_stage.fit()
        self.blank_stage.fit()

    # --- files dropped on it, closing ----------------------------------------------------------

    def dragEnterEvent(self, event) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event) -> None:
        for url in event.mimeData().urls():
            self.take_file(Path(url.toLocalFile()))

    def take_file(self, path: Path) -> None:
        """A job is opened; a form or artwork becomes a row of its own."""
        ending = path.suffix.lower()
        operation = operation_for(self.session.job, ending)
        if ending == ENDING:
            self.open_path(path)
            return
        if operation is None:
            self.session.said.emit(
                f"{path.name} is neither a job nor STEP, STL, OBJ, PLY, 3MF, SVG or DXF; export it as one of them.",
                "problem",
            )
            return
        asset = self.session.bring_asset(path)
        if asset is not None:
            beside = self.session.selected
            values = {**entries()[operation].fresh(), "file": asset.name}
            self.session.edit(
                f"Bring {path.name} in", lambda job: begun(job.with_asset(asset), operation, beside, **values)[0]
            )

    def changeEvent(self, event: QEvent) -> None:
        """In other colours the stages draw all they show anew."""
        super().changeEvent(event)
        if event.type() == QEvent.Type.PaletteChange:
            self.session.seen_changed.emit()

    def closeEvent(self, event: QCloseEvent) -> None:
        if self._may_leave():
            self.session.close()
            event.accept()
            QApplication.quit()
        else:
            event.ignore()


def operation_for(job: Job, ending: str) -> str | None:
    """The operation that takes a file with that ending: one that makes it a form, or rather one that works on what the
    job has already."""

    def works_on(known: Entry) -> int:
        needed = [p for p in known.parameters if isinstance(p, Source) and not p.optional]
        fitting = [any(p.fits(row) for row in job.rows) for p in needed]
        return len(fitting) if all(fitting) else -1

    fitting = [known for known in entries().values() if ending in known.endings]
    return max(fitting, key=lambda known: (known.group == GROUPS[0], works_on(known))).key if fitting else None
