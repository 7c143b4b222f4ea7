"""The slider from flat to formed: a development's stages, a sheet part's folding, ribs put together, cuts, bends."""

from __future__ import annotations

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QSlider, QWidget

from ...core.job.route import Job, Row
from ...core.operations.registry import entries
from ..session import Session, glimpsed
from ..sliding import ENDS, ends_of, largest, share_of, slid
from ..theme import font, inked

STEPS = 200
PLAYED = 2400
"""All stages are played in so many milliseconds."""
PICTURES = 24
WRITTEN = 250
"""A stage that is seen at once is written into the job once in so many milliseconds, since its row is computed then;
one that is glimpsed when the slider has rested so long."""


class FoldSlider(QWidget):
    """Stands over the route card while what is selected has a blank that can be folded."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        layout = QHBoxLayout(self)
        layout.setContentsMargins(16, 0, 16, 4)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(0, STEPS)
        self._ends = QLabel("flat"), QLabel("formed")
        for label in self._ends:
            label.setFont(font(11))
            inked(label, "quiet")
        layout.addWidget(self._ends[0])
        layout.addWidget(self.slider, 1)
        layout.addWidget(self._ends[1])
        self.slider.sliderPressed.connect(session.end_step)
        self.slider.sliderReleased.connect(self._at_rest)
        self.slider.valueChanged.connect(self._moved)
        self._play = QTimer(self, interval=1000 // PICTURES)
        self._play.timeout.connect(self._next)
        self._write = QTimer(self, interval=WRITTEN, singleShot=True)
        self._write.timeout.connect(self._written)
        for signal in (session.selection_changed, session.job_changed, session.seen_changed):
            signal.connect(self.refresh)
        self.refresh()

    def row(self) -> Row | None:
        """The row whose value is moved: the selected one, or one that folds the blank of it."""
        selected = self.session.selected_row
        if selected is None or slid(selected):
            return selected
        blank = self.session.nearby("blank")
        if blank is None:
            return None
        if slid(blank):
            return blank
        return next((row for row in self.session.job.takers(blank) if slid(row) and ends_of(row) == ENDS), None)

    def refresh(self) -> None:
        row = self.row()
        found = self.session.job.parameter(row, slid(row)) if row is not None and slid(row) else None
        blank = self.session.value(self.session.nearby("blank"), "blank")
        if played := self._played():
            self._show(played, self.session.together)
            return
        share = share_of(self.session, row) if found is not None and row is not None else 1.0
        self._show(ends_of(row), share)
        self.setVisible(found is not None or (self.session.selected_row is not None and blank is not None))

    def _played(self) -> tuple[str, ...]:
        """The ends between which what is selected is only looked at, without a change of its row."""
        outcome = self.session.outcome(self.session.selected_row)
        return next((result.played for result in outcome.results if result.played), ()) if outcome is not None else ()

    def _show(self, ends: tuple[str, ...], share: float) -> None:
        for label, words in zip(self._ends, ends, strict=True):
            label.setText(words)
        self.slider.setAccessibleName(f"from {ends[0]} to {ends[1]}")
        self.slider.setToolTip(f"from {ends[0]} to {ends[1]}; P plays it")
        self.slider.blockSignals(True)
        self.slider.setValue(round(STEPS * share))
        self.slider.blockSignals(False)
        self.setVisible(True)

    def play(self) -> None:
        """From flat to formed in a few seconds; once more stops it."""
        if self._play.isActive():
            self._play.stop()
        elif self.isVisible():
            self.session.end_step()
            self.slider.setValue(0)
            self._play.start()

    def _next(self) -> None:
        step = max(1, round(STEPS * self._play.interval() / PLAYED))
        self.slider.setValue(self.slider.value() + step)
        if self.slider.value() >= STEPS:
            self._play.stop()
            self._at_rest()

    def _at_rest(self) -> None:
        self._written()
        self.session.end_step()

    def _moved(self, value: int) -> None:
        """Sets the value of the row; a blank that no row folds yet gets one that does."""
        if self._played():
            self.session.put_together(value / STEPS)
            return
        row, share = self.row(), f"{value / STEPS:g}"
        if row is not None and slid(row):
            self.session.fold(row.id, value / STEPS)
            if glimpsed(row):
                self.session.glimpse(row.id, lambda job: job.set(row.id, slid(row), self._text(row, value / STEPS)))
                self._write.start()  # once it rests
                return
            if self.session.value(row, row.gives[0]) is None or not self._write.isActive():
                self._written()
            return
        blank = self.session.nearby("blank")
        known = next((entry for entry in entries().values() if "folded" in entry.gives), None)
        if blank is None or known is None:
            return
        key, blank_id, name = known.key, blank.id, str(getattr(known.type, "slides", ""))

        def added(job: Job) -> Job:
            return job.added(key, after=blank_id, **{"blank": blank_id, name: share})

        if self.session.edit("Fold", added):
            made = next(row for row in self.session.job.takers(self.session.job.row(blank_id)) if row.operation == key)
            self.session.select(made.id)

    def _text(self, row: Row, share: float) -> str:
        return f"{share * largest(self.session.job, row):g}"

    def _written(self) -> None:
        """The job has the stage that is looked at."""
        if self.session.folding is None:
            return
        row_id, share = self.session.folding
        self.session.folding = None
        row = self.session.row(row_id)
        if row is not None and (name := slid(row)):
            self._write.start()
            value = self._text(row, share)
            self.session.attempt("Fold", lambda job: job.set(row_id, name, value), merge=f"{row_id}.{name}")
