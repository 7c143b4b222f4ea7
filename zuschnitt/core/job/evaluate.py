"""Evaluates a route: runs what has changed, and says of every row how it stands."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Iterator, Mapping
from typing import Any

from ..errors import Cancelled, Lacking, Remedy, ZuschnittError
from ..operations.registry import entries
from ..parameters.parameter import FileOf, ResultOf
from ..progress import SILENT, Progress
from ..record import record
from ..results.result import Outcome
from .route import Asset, Job, Row
from .task import Task, Tasks, tasks

KEPT = 200
"""How many results are kept for jobs that come back, as with undo."""


@record
class State:
    """How a row stands: done, broken, waiting (for a row that is broken or off), off or stopped.

    ``reason`` is the sentence for it; ``faces``, ``edges`` and ``points`` are what it speaks of, ``remedies`` would
    help; ``exit_code`` is what a call ends with that needs the row. A row that ``lacks`` something waits for the user.
    ``key`` is that of the task which always ends so; it is empty where another try may end otherwise.
    """

    status: str
    outcome: Outcome | None = None
    reason: str = ""
    key: str = ""
    faces: tuple[int, ...] = ()
    points: tuple = ()
    exit_code: int = 4
    lacks: bool = False
    edges: tuple[int, ...] = ()
    remedies: tuple[Remedy, ...] = ()


class Results:
    """The results that were used last, by their keys."""

    def __init__(self, kept: int = KEPT) -> None:
        self._most = kept
        self._kept: OrderedDict[str, Outcome] = OrderedDict()

    def get(self, key: str) -> Outcome | None:
        if key in self._kept:
            self._kept.move_to_end(key)
        return self._kept.get(key)

    def keep(self, key: str, outcome: Outcome) -> None:
        self._kept[key] = outcome
        while len(self._kept) > self._most:
            self._kept.popitem(last=False)


class Evaluator:
    """Runs routes one after the other in this process, and keeps their results by content."""

    def __init__(self, kept: int = KEPT) -> None:
        self._results = Results(kept)

    def evaluate(
        self, job: Job, progress_of: Callable[[Row, str], Progress] = lambda row, key: SILENT
    ) -> Iterator[tuple[Row, State]]:
        """The state of each row, in order. ``Cancelled`` from a row's progress stops it and all that follow."""
        states: dict[str, State] = {}
        outcomes: dict[str, Outcome] = {}
        known = tasks(job)
        files = {FileOf(name, asset.sha256): asset for name, asset in job.assets.items()} if job.assets else {}
        for row in job.rows:
            stopped = row.enabled and any(other.status == "stopped" for other in states.values())
            state = NOT_STARTED if stopped else standing(job, row, states, known)
            task = known.get(row.id)
            if state is None and isinstance(task, Task):
                outcome = self._results.get(task.key)
                if outcome is not None:
                    state = State("done", outcome, key=task.key)
                else:
                    state = performed(
                        task, lambda it: taken_from(outcomes[it.key], it), files.__getitem__, progress_of(row, task.key)
                    )
                if state.outcome is not None:
                    outcomes[task.key] = state.outcome
                    self._results.keep(task.key, state.outcome)
            assert state is not None
            states[row.id] = state
            yield row, state


NOT_STARTED = State("stopped", reason="stopped before its turn; run it again")


def standing(job: Job, row: Row, states: Mapping[str, State], known: Tasks) -> State | None:
    """How a row stands by what is known of those it works on; None where it can be computed."""
    if not row.enabled:
        return State("off", reason="switched off")
    try:
        taken_rows = job.sources(row)
    except Exception as error:
        return broken_by(error)
    for taken in taken_rows:
        if (state := states[taken.id]).status != "done":
            why = {"off": "is switched off", "stopped": "was stopped", "waiting": "waits itself"}
            return State("waiting", reason=f"waits for row {taken.number}, which {why.get(state.status, 'is broken')}")
    task = known[row.id]
    return broken_by(task) if isinstance(task, Exception) else None


def taken_from(outcome: Outcome, taken: ResultOf) -> Any:
    """The value of the result that is taken of all that a row gave."""
    found = outcome.result(taken.kind)
    return None if found is None else found.value


def performed(
    task: Task, result: Callable[[ResultOf], Any], file: Callable[[FileOf], Asset], progress: Progress = SILENT
) -> State:
    """Computes a task; ``result`` and ``file`` give what it takes. Whatever it raises becomes a state."""
    try:
        return State("done", task.ready(result, file).run(progress), key=task.key)
    except Cancelled as error:
        return State("stopped", reason=error.sentence, key=task.key, exit_code=error.exit_code)
    except MemoryError:
        return State("broken", reason="There is not enough memory for this; take larger triangles.")
    except Exception as error:  # a mistake of ours must break one row, not the route
        return broken_by(error, task.key)


def broken_by(error: Exception, key: str = "") -> State:
    """A row that ended with ``error``; one that lacks something only waits for it."""
    if isinstance(error, Lacking):
        return State("waiting", reason=error.sentence, key=key, exit_code=error.exit_code, lacks=True)
    if isinstance(error, ZuschnittError):
        pointed = error.faces, error.points, error.exit_code
        return State("broken", None, error.sentence, key, *pointed, edges=error.edges, remedies=error.remedies)
    why = f"{type(error).__name__}: {error}"[:200]
    return State("broken", reason=f"This row met a mistake in the program ({why}); please report it.", key=key)


def run_all(job: Job, progress: Progress = SILENT) -> dict[str, State]:
    """Evaluates the whole job here and now: the state of each row by its id."""
    rows = max(1, len(job.rows))
    place = {row.id: i for i, row in enumerate(job.rows)}
    entries()

    def part(row: Row, key: str) -> Progress:
        return progress.part(place[row.id] / rows, (place[row.id] + 1) / rows)

    return {row.id: state for row, state in Evaluator().evaluate(job, part)}
