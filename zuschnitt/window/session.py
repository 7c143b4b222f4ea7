"""What the window is about: the job and its history, how its rows stand, and what is selected."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from dataclasses import replace
from datetime import datetime
from pathlib import Path
from typing import Any

import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ..core.errors import Refused, ZuschnittError
from ..core.form.appearance import Looks
from ..core.form.form import Form
from ..core.form.glimpse import Glimpse
from ..core.job.chapters import Chapter, chapter_of, chapters
from ..core.job.evaluate import State
from ..core.job.history import History
from ..core.job.job_file import ENDING, load_job
from ..core.job.route import Asset, Job, Row
from ..core.job.task import keys_of, tasks, tasks_behind
from ..core.operations.registry import known_entry
from ..core.record import record
from ..core.results.result import Outcome, Result
from ..core.units import in_unit
from ..engine.engine import Engine
from ..engine.events import Event, Finished, RowGlimpsed, RowRuns, RowShows, RowStands
from .autosave import Autosave
from .drawing import LiveDrawings
from .engine_link import EngineLink
from .identities import with_identities
from .motion import Motion
from .recent import remember_folder
from .saved_file import SavedElsewhereError, SavedFile

NAMELESS = Job().name
"""A job without a name of its own takes that of its first file."""


@record
class Wanted:
    """A value of a row that waits for a click on the form: ``name`` is faces, hold or along."""

    row_id: str
    name: str


def glimpsed(row: Row) -> bool:
    """Whether what a row gives can be seen roughly while a value moves."""
    known = known_entry(row.operation)
    return known is not None and known.glimpsed


class Shown:
    """What a stage draws: the results, and what else matters. Two are equal where they hold the very same results."""

    def __init__(self, outcomes: tuple[Outcome | None, ...], about: tuple) -> None:
        self._outcomes, self._about = outcomes, about

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, Shown) or len(self._outcomes) != len(other._outcomes):
            return False
        same = all(mine is theirs for mine, theirs in zip(self._outcomes, other._outcomes, strict=True))
        return same and self._about == other._about

    __hash__ = None  # type: ignore[assignment]


class Session(QObject):
    """Holds the state; widgets show it and call ``edit``. Signals tell what has changed."""

    job_changed = pyqtSignal()
    row_changed = pyqtSignal(str)
    seen_changed = pyqtSignal()
    """A row has changed that the stages show; said once for all that change at a time."""
    selection_changed = pyqtSignal()
    chapters_changed = pyqtSignal()
    """A chapter has been folded or unfolded."""
    motion_changed = pyqtSignal()
    wanted_changed = pyqtSignal()
    work_changed = pyqtSignal()
    saved_changed = pyqtSignal()
    cursor_changed = pyqtSignal()
    figures_changed = pyqtSignal()
    """Other figures of the selected drawing are picked, or another kind of figure waits for a click."""
    said = pyqtSignal(str, str)
    """A sentence for the user, and "note" or "problem"."""

    def __init__(self, engine: Engine | None = None, autosave: Autosave | None = None) -> None:
        super().__init__()
        self.history = History(Job())
        self.states: dict[str, State] = {}
        self.pending: set[str] = set()
        self.coarse: dict[str, Outcome] = {}
        self.glimpses: dict[str, Glimpse] = {}
        self._glimpsing: str | None = None
        self.selected: str | None = None
        self.file: SavedFile | None = None
        self.saved: Job | None = self.history.now
        self.saved_at: datetime | None = None
        self.motions: dict[str, Motion] = {}
        self._dragged: str | None = None
        self.wanted: Wanted | None = None
        self.runs: dict[str, tuple[float, str]] = {}
        self.cursor_blank: np.ndarray | None = None
        self.figures: set[int] = set()
        self.placing: str | None = None
        self.folded: set[str] = set()
        """The chapters that are folded, by their ids."""
        self.bodies = ""
        """How all bodies of the job are shown, by a key of ``all_bodies.WAYS``; empty where it is one at a time."""
        self.together = 1.0
        self.folding: tuple[str, float] | None = None
        self.drawings = LiveDrawings(self)
        self.autosave = autosave
        self._seen: tuple[tuple, frozenset[str]] | None = None
        self._soon = QTimer(self, singleShot=True, interval=0)
        self._soon.timeout.connect(self.seen_changed)
        self.engine = engine or Engine()
        self._link = EngineLink(self.engine, self)
        self._link.heard.connect(self._heard)

    # --- reading -------------------------------------------------------------------------------

    @property
    def job(self) -> Job:
        return self.history.now

    @property
    def path(self) -> Path | None:
        """Where the job was opened from or saved to."""
        return self.file.path if self.file is not None else None

    @property
    def unsaved(self) -> bool:
        return self.job != self.saved

    @property
    def idle(self) -> bool:
        return not self.pending and self.folding is None and self.engine.idle

    @property
    def running(self) -> tuple[str, float, str] | None:
        """A row that is being computed, how much of it is done, and what is being done: the selected one if it is."""
        row_id = self.selected if self.selected in self.runs else next(iter(self.runs), None)
        return None if row_id is None else (row_id, *self.runs[row_id])

    def row(self, row_id: str | None) -> Row | None:
        return self.job.row_of(row_id)

    @property
    def selected_row(self) -> Row | None:
        return self.row(self.selected)

    def outcome(self, row: Row | None) -> Outcome | None:
        """The result that a row last gave, also while a newer one is being computed."""
        outcome = self.states[row.id].outcome if row is not None and row.id in self.states else None
        if row is not None and row.id in self.coarse:
            outcome = self.coarse[row.id]
        return outcome

    def stale(self, row: Row | None) -> str:
        """Why what a row last gave is out of date; empty where it is not, or is being computed anew."""
        state = self.states.get(row.id) if row is not None else None
        if row is not None and row.id in self.coarse:
            return "coarse for now, being refined"
        if row is None or state is None or state.outcome is None or state.status == "done":
            return ""
        return f"out of date: row {row.number} is {'off' if state.status == 'off' else state.status}"

    def value(self, row: Row | None, kind: str) -> Any:
        """What a row last gave of that kind; None where it gave none."""
        outcome = self.outcome(row)
        result = outcome.result(kind) if outcome is not None else None
        return None if result is None else result.value

    def hides(self, row: Row | None) -> bool:
        """Whether what a row gives is not drawn on the stages."""
        return row is not None and Looks.of(row.view).unseen

    @property
    def hides_blank(self) -> bool:
        """Whether the blank that belongs to what is selected is not drawn."""
        return self.hides(self.nearby("blank"))

    def hidden_words(self, row: Row | None) -> str:
        """What a stage says of a row that is hidden; empty of others."""
        if row is None or not self.hides(row):
            return ""
        return "hidden (X shows it)" if row.id == self.selected else f"hidden in row {row.number}"

    def given(self, kind: str) -> Result | None:
        """The result of that kind that the selected row gives, to be drawn; None where it is hidden."""
        outcome = None if self.hides(self.selected_row) else self.outcome(self.selected_row)
        return None if outcome is None else outcome.result(kind)

    def drawn(self, kind: str) -> Any:
        """The value of that result."""
        result = self.given(kind)
        return None if result is None else result.value

    def nearby(self, kind: str) -> Row | None:
        """The row of that kind that belongs to what is selected: itself, its source, or what follows."""
        row = self.selected_row
        if row is None:
            return next((r for r in self.job.rows if kind in r.gives), None)
        if kind in row.gives:
            if kind == "form" and self.outcome(row) is None:  # what it works on shows where it fails
                return self._taken(row, kind)[0] or row
            return row
        taken, depth = self._taken(row, kind)
        if taken is not None and kind == "form" and "blank" not in row.gives:
            blank, shallow = self._taken(row, "blank")
            if blank is not None and shallow <= depth:  # of several forms, the one that the blank shown belongs to
                return blank if "form" in blank.gives else self.job.origin(blank, ("form",)) or taken
        if taken is not None:
            return taken
        below = self.job.below(row)
        first = next((r for r in self.job.rows if kind in r.gives and r.id in below), None)
        return first or self._beside(row, kind) or self._in_chapter(row, kind)

    def _taken(self, row: Row, kind: str) -> tuple[Row | None, int]:
        """The nearest row of that kind among all that ``row`` works on, and over how many rows."""
        waiting, seen = [(row, 1)], {row.id}
        while waiting:
            here, depth = waiting.pop(0)
            for taken in self.job.sources(here):
                if kind in taken.gives:
                    return taken, depth
                if taken.id not in seen:
                    seen.add(taken.id)
                    waiting.append((taken, depth + 1))
        return None, 0

    def _beside(self, row: Row, kind: str) -> Row | None:
        """The first row of that kind that works on the form which ``row`` works on, too."""
        form = self.job.origin(row, ("form",))
        if form is None:
            return None
        return next((r for r in self.job.rows if kind in r.gives and self.job.origin(r, ("form",)) == form), None)

    def _in_chapter(self, row: Row, kind: str) -> Row | None:
        """The first row of that kind in the chapter, if it has a name, of a row that hangs together with none."""
        chapter = chapter_of(self.job, row.id)
        return next((r for r in chapter.rows if kind in r.gives), None) if chapter.name else None

    def given_form(self, row: Row) -> Form | None:
        """The form that a row works on; None where it works on none, or that is not computed yet."""
        known = known_entry(row.operation)
        source = known.source_of("form") if known is not None else None
        try:
            return None if source is None else self.value(self.job.source(row, source), "form")
        except Refused:
            return None

    @property
    def chapters(self) -> tuple[Chapter, ...]:
        return chapters(self.job.rows)

    def link(self, row: Row) -> str:
        """How a row hangs together with the selected one: ``given`` to it, ``takes`` its result, or not at all."""
        selected = self.selected_row
        if selected is None or selected.id == row.id:
            return ""
        if any(taken.id == row.id for taken in self.job.sources(selected)):
            return "given"
        return "takes" if any(taker.id == row.id for taker in self.job.takers(selected)) else ""

    def body_of(self, row: Row | None) -> Row | None:
        """The row that makes a body of artwork which ``row`` gives, and can show it while it is moved."""
        if row is None or "artwork" not in row.gives:
            return None
        found = [other for other in self.job.takers(row) if other.enabled and glimpsed(other) and "form" in other.gives]
        return next((other for other in found if self.outcome(other) is not None), None)

    def on_blank(self, kind: str) -> list[Row]:
        """Rows of that kind that work on the blank which is shown."""
        blank = self.nearby("blank")
        if blank is None:
            return []
        return [r for r in self.job.takers(blank) if kind in r.gives and r.enabled and not self.hides(r)]

    def sees(self, row_id: str) -> bool:
        """Whether the stages show that row: form and blank that belong to what is selected, and what is on them."""
        job, about = self.job, (self.job, self.selected, self.wanted)
        if self._seen is None or any(a is not b for a, b in zip(self._seen[0], about, strict=True)):
            form, blank = self.nearby("form"), self.nearby("blank")
            wanted = self.row(self.wanted.row_id) if self.wanted is not None else None
            shown = [row for row in (self.selected_row, form, blank, wanted) if row is not None]
            found = {row.id for row in shown} | {taken.id for row in shown for taken in job.sources(row)}
            found |= {row.id for row in job.takers(form) if "curves" in row.gives} if form is not None else set()
            found |= job.below(blank) if blank is not None else set()
            self._seen = about, frozenset(found)
        return row_id in self._seen[1]

    def shown(self) -> Shown:
        """What the stages have to draw now."""
        rows = [row for row in self.job.rows if self.sees(row.id)]
        stand = tuple((row.id, row.enabled, self.hides(row), self.stale(row)) for row in rows)
        return Shown(tuple(self.outcome(row) for row in rows), (self.selected, self.wanted, stand))

    # --- editing -------------------------------------------------------------------------------

    def edit(self, what: str, make: Callable[[Job], Job], merge: str = "") -> bool:
        """Makes a new job from the present one; False, with a sentence said, where that is refused."""
        refusal = self.attempt(what, make, merge)
        if refusal:
            self.said.emit(refusal, "problem")
        return not refusal

    def attempt(self, what: str, make: Callable[[Job], Job], merge: str = "") -> str:
        """Like ``edit``, but gives the sentence of a refusal instead of saying it."""
        try:
            job = with_identities(self.job, make(self.job), lambda row: self.value(row, "form"))
        except ZuschnittError as error:
            return error.sentence
        if job.name == NAMELESS and job.assets and not self.job.assets:
            job = replace(
                job, name=Path(next(iter(job.assets))).stem.replace("_", " ").strip().capitalize() or NAMELESS
            )
        history = self.history.edited(job, what, merge)
        if history is not self.history:
            self.history = history
            self._job_is_new()
        return ""

    def words(self, text: str) -> str:
        """A sentence with its lengths in the job's unit."""
        return in_unit(text, self.job.unit)

    def length(self, mm: float, digits: int = 2) -> str:
        """A length of a drawing: bare in mm, with its unit in another one."""
        text = f"{mm:.{digits}f}"
        return text if self.job.unit == "mm" else self.words(f"{text} mm")

    def glimpse(self, row_id: str, make: Callable[[Job], Job]) -> None:
        """Has a row looked at as it would be with a job that is only tried out; what is refused shows nothing."""
        with suppress(ZuschnittError):
            self.engine.glimpse(tasks_behind(make(self.job), row_id), row_id)
            self._glimpsing = row_id

    def forget_glimpse(self) -> None:
        """What rows really give is seen again; a glimpse that is still on its way is not."""
        self._glimpsing = None
        if self.glimpses:
            self.glimpses.clear()
            self.seen_changed.emit()

    def put_together(self, share: float) -> None:
        """How far the plates that are seen are together, from 0 to 1."""
        self.together = share
        self.seen_changed.emit()

    def fold(self, row_id: str, share: float) -> None:
        """The stage of a row that is looked at while the slider moves, before the job has it."""
        self.folding = row_id, share
        self.seen_changed.emit()

    def end_step(self) -> None:
        """The next edit is a step of its own."""
        self.history = self.history.with_step_ended()

    def undo(self) -> None:
        self._travel(self.history.undone())

    def redo(self) -> None:
        self._travel(self.history.redone())

    def _travel(self, history: History) -> None:
        if history is not self.history:
            self.history = history
            self._job_is_new()

    def _wanted_is_gone(self) -> bool:
        """Whether the value that waits for a click is no longer there, since its row or its figure has gone."""
        row = self.row(self.wanted.row_id) if self.wanted is not None else None
        if self.wanted is None or row is None:
            return self.wanted is not None
        try:
            self.job.parameter(row, self.wanted.name)
        except Refused:
            return True
        return False

    def _job_is_new(self) -> None:
        if self._wanted_is_gone():
            self.want(None)
        if self.row(self.selected) is None:
            self.selected = None
            self.selection_changed.emit()
        known = tasks(self.job)
        wanted_keys = keys_of(known)
        here = {row.id for row in self.job.rows}
        self.states = {row_id: state for row_id, state in self.states.items() if row_id in here}
        self.coarse.clear()
        self.runs.clear()
        self.pending = {
            row.id
            for row in self.job.rows
            if row.id not in self.states or self.states[row.id].key != wanted_keys.get(row.id, "?")
        }
        self.engine.evaluate(self.job, known)
        if self.autosave is not None:
            self.autosave.keep(self.job, self.file, self.unsaved)
        self.job_changed.emit()
        self.saved_changed.emit()
        self.work_changed.emit()

    def select(self, row_id: str | None) -> None:
        if row_id != self.selected:
            self.selected = row_id
            if row_id is not None:
                self.folded.discard(chapter_of(self.job, row_id).id)
            self.bodies = ""
            self.engine.look(row_id)
            self.want(None)
            self.figures, self.placing = set(), None
            self.selection_changed.emit()

    def show_bodies(self, way: str) -> None:
        """Has all bodies of the job shown together, or one at a time again."""
        if way != self.bodies:
            self.bodies = way
            self.seen_changed.emit()

    def is_folded(self, chapter: Chapter) -> bool:
        return bool(chapter.name) and chapter.id in self.folded

    def fold_chapter(self, chapter_id: str, folded: bool) -> None:
        """Has a chapter shown as one line, or row by row."""
        if folded != (chapter_id in self.folded):
            self.folded ^= {chapter_id}
            self.chapters_changed.emit()

    def want(self, wanted: Wanted | None) -> None:
        """Waits for a click on the form for that value."""
        if wanted != self.wanted:
            self.wanted, self.bodies = wanted, ""
            self.wanted_changed.emit()

    def pick_figures(self, numbers: set[int]) -> None:
        """Picks figures of the selected drawing, by their numbers."""
        if numbers != self.figures or self.placing is not None:
            self.figures, self.placing = set(numbers), None
            self.want(None)
            self.figures_changed.emit()

    def place_next(self, key: str | None) -> None:
        """The next click on the blank draws a figure of that kind."""
        if key != self.placing:
            self.placing = key
            self.figures_changed.emit()

    def drag(self, row_id: str, motion: Motion | None) -> None:
        """Shows artwork moved, without an edit; None ends that."""
        self._dragged = None if motion is None else row_id
        if motion is None:
            self.motions.pop(row_id, None)
            self.forget_glimpse()
        else:
            self.motions[row_id] = motion
        self.motion_changed.emit()

    def rested(self) -> Motion | None:
        """Ends a drag, without an edit; gives the motion that stays in sight until a result comes."""
        dragged, self._dragged = self._dragged, None
        return self.motions.get(dragged) if dragged is not None else None

    # --- the engine ----------------------------------------------------------------------------

    def retry(self) -> None:
        self.engine.retry()

    def stop(self) -> None:
        self.engine.cancel()

    def _heard(self, event: Event) -> None:
        if event.generation != self.engine.generation:  # said before the last edit, heard after it
            return
        if isinstance(event, RowRuns):
            self.runs[event.row_id] = event.fraction, event.text
            self.work_changed.emit()
        elif isinstance(event, RowStands):
            state = event.state
            before = self.states.get(event.row_id)
            if state.status != "done" and before is not None and before.outcome is not None:
                # what it last gave stays in sight, marked as out of date
                state = replace(state, outcome=before.outcome)
            self.states[event.row_id] = state
            self.coarse.pop(event.row_id, None)
            self.glimpses.pop(event.row_id, None)
            if event.row_id == self._glimpsing:
                self._glimpsing = None
            self.pending.discard(event.row_id)
            self.runs.pop(event.row_id, None)
            if event.row_id != self._dragged:
                self.motions.pop(event.row_id, None)
            self._row_is_new(event.row_id)
        elif isinstance(event, RowShows):
            self.coarse[event.row_id] = event.outcome
            self._row_is_new(event.row_id)
        elif isinstance(event, RowGlimpsed):
            if event.row_id == self._glimpsing:
                self.glimpses[event.row_id] = event.glimpse
                self.seen_changed.emit()
        elif isinstance(event, Finished):
            self.runs.clear()
            self.coarse.clear()
            self.glimpses.clear()
            self._glimpsing = None
            self.pending.clear()
            self.motions = {row_id: m for row_id, m in self.motions.items() if row_id == self._dragged}
            self.work_changed.emit()

    def _row_is_new(self, row_id: str) -> None:
        self.row_changed.emit(row_id)
        if self.bodies or self.sees(row_id):
            self._soon.start()

    # --- files ---------------------------------------------------------------------------------

    def start_job(self, job: Job, file: SavedFile | None = None, saved: bool = True) -> None:
        """Puts another job in the place of this one."""
        self.history = History(job)
        self.file, self.saved = file, job if saved else None
        self.saved_at = None
        self.states, self.motions, self.wanted = {}, {}, None
        self.selected = None
        self.folded = {chapter.id for chapter in chapters(job.rows)[1:] if chapter.name}
        self._job_is_new()
        self.select(job.rows[0].id if job.rows else None)
        self.selection_changed.emit()

    def open(self, path: Path) -> bool:
        try:
            file = SavedFile.now(path)
            job = load_job(path)
        except ZuschnittError as error:
            self.said.emit(error.sentence, "problem")
            return False
        self.start_job(job, file)
        return True

    def save(self, path: Path, over: bool = False) -> bool:
        """Saves the job; ``over`` what another window has saved there meanwhile. Raises SavedElsewhereError else."""
        path = path if path.suffix == ENDING else path.with_name(path.name + ENDING)
        if self.job.name == NAMELESS:
            self.edit("Name the job", lambda job: replace(job, name=path.stem))
        known = self.file if self.file is not None and self.file.path == path and not over else SavedFile.now(path)
        try:
            self.file = known.save(self.job)
        except SavedElsewhereError:
            raise
        except ZuschnittError as error:
            self.said.emit(error.sentence, "problem")
            return False
        self.saved, self.saved_at = self.job, datetime.now()
        if self.autosave is not None:
            self.autosave.keep(self.job, self.file, False)
        self.saved_changed.emit()
        return True

    def bring_asset(self, path: Path) -> Asset | None:
        """Reads a file to be kept in the job; says why where it cannot be read."""
        try:
            content = path.read_bytes()
        except OSError as error:
            why = error.strerror or str(error)
            self.said.emit(f"{path} cannot be read: {why}; choose another file.", "problem")
            return None
        remember_folder(path.parent)
        return Asset(path.name, content)

    def close(self) -> None:
        self.engine.close()
        if self.autosave is not None:
            self.autosave.forget()


def file_name_of(job: Job) -> str:
    """A file name made of the job's name."""
    kept = "".join(letter if letter.isalnum() or letter in " -_" else "" for letter in job.name).strip()
    if not kept:
        raise Refused("The job has no name that makes a file name; give it one.")
    return kept.lower().replace(" ", "-") + ENDING
