"""Which rows of a job are to be computed next, and how the others stand. Knows no processes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from ..core.job.chapters import chapter_of
from ..core.job.evaluate import NOT_STARTED, State, standing
from ..core.job.route import Job, Row
from ..core.job.task import Task, Tasks, keys_of

WANTED, SEEN, REST = 0, 1, 2
"""How urgent a row is: what is selected and what it works on, what works on that in its chapter, and all others."""


class Schedule:
    """One job on its way. ``states`` are those of its known rows; ``failed`` are tasks that are not tried again."""

    def __init__(self, generation: int, job: Job, known: Tasks, failed: Mapping[str, State]) -> None:
        self.generation, self.job = generation, job
        self.states: dict[str, State] = {}
        self.tasks = known
        self._failed = failed
        self._urgency: dict[str, int] = {}
        self._unknown = {row.id: row for row in job.rows}
        self._asking: dict[str, list[Row]] = {}
        for row in job.rows:
            self._asking.setdefault(self.key(row.id), []).append(row)
        self._new = True
        self._can_start: list[tuple[Row, Task]] = []

    @property
    def done(self) -> bool:
        return not self._unknown

    @property
    def unknown(self) -> tuple[Row, ...]:
        """The rows whose state is not known yet."""
        return tuple(self._unknown.values())

    def key(self, row_id: str) -> str:
        task = self.tasks.get(row_id)
        return task.key if isinstance(task, Task) else ""

    @property
    def keys(self) -> set[str]:
        """Those of all its tasks."""
        return set(keys_of(self.tasks).values())

    def row_of(self, key: str) -> Row | None:
        """The first row that still asks for this task."""
        return next((row for row in self._asking.get(key, ()) if row.id in self._unknown), None)

    def advance(self) -> list[tuple[Row, State]]:
        """Rows that will not be computed, each with how it stands; call it whenever more is known."""
        found: list[tuple[Row, State]] = []
        if not self._new:
            return found
        self._new, self._can_start = False, []
        for row in list(self._unknown.values()):  # those that a row works on stand above it
            if any(taken.id in self._unknown for taken in self._taken(row)):
                continue
            state = standing(self.job, row, self.states, self.tasks) or self._failed.get(self.key(row.id))
            if state is not None:
                self.know(row, state)
                found.append((row, state))
            elif isinstance(task := self.tasks[row.id], Task):
                self._can_start.append((row, task))
        self._new = False
        return found

    def know(self, row: Row, state: State) -> None:
        """From now on, ``row`` stands so."""
        self.states[row.id] = replace(state, outcome=None)
        self._unknown.pop(row.id, None)
        self._new = True

    def stop(self) -> list[tuple[Row, State]]:
        """Nothing more is computed: the rows that this concerns."""
        found = [(row, NOT_STARTED) for row in self._unknown.values()]
        for row, state in found:
            self.know(row, state)
        return found

    def ready(self) -> list[tuple[Row, Task]]:
        """What could be computed when ``advance`` was last called, the most urgent first."""
        waiting = [(row, task) for row, task in self._can_start if row.id in self._unknown]
        return sorted(waiting, key=lambda item: self.urgency(item[0].id))  # else in their order

    def urgency(self, row_id: str) -> int:
        return self._urgency.get(row_id, REST)

    def urgency_of(self, key: str) -> int:
        """That of the most urgent row that asks for this task."""
        return min((self.urgency(row.id) for row in self._asking.get(key, ()) if row.id in self._unknown), default=REST)

    def look(self, row_id: str | None) -> None:
        """That row is selected: it comes first with all it works on, then what works on it in its chapter."""
        self._urgency = {}
        selected = self.job.row_of(row_id)
        if selected is None:
            return
        below = {selected.id}
        for row in chapter_of(self.job, selected.id).rows:
            if any(taken.id in below for taken in self._taken(row)):
                below.add(row.id)
                self._mark(row, SEEN)
        self._mark(selected, WANTED)

    def _mark(self, row: Row, urgency: int) -> None:
        """The row, and all that it works on."""
        waiting = [row]
        while waiting:
            here = waiting.pop()
            if self._urgency.get(here.id, REST) > urgency:
                self._urgency[here.id] = urgency
                waiting.extend(self._taken(here))

    def _taken(self, row: Row) -> tuple[Row, ...]:
        try:
            return self.job.sources(row)
        except Exception:  # its state says why
            return ()
