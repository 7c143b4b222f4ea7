"""A process that computes one row at a time: forked where all slow imports are done already, and killed at will."""

from __future__ import annotations

import os
import signal
import threading
import time
from contextlib import suppress
from multiprocessing.connection import Connection
from queue import SimpleQueue
from typing import Any

from ..core.files.apart import end_with_parent
from ..core.job.evaluate import Results, State, broken_by, performed, taken_from
from ..core.job.route import Asset
from ..core.job.task import Look, Task
from ..core.parameters.parameter import FileOf, ResultOf
from ..core.progress import Progress
from ..core.results.result import Outcome
from .events import no_room
from .store import Store

EVERY = 0.05
"""Progress is told no more often than this, in seconds."""


class Worker:
    """Messages in: a ``Task``, or a ``Look``. Out: ("progress", fraction, text), ("coarse", key, enough),
    ("stands", state), ("missing",); and ("glimpsed", whether there was anything to be seen).

    Results and files are taken from the store and put there; a state comes without its outcome.
    """

    def __init__(self, connection: Connection, store: Store) -> None:
        self._connection, self._store = connection, store
        self._results = Results()
        self._files: dict[str, Asset] = {}
        self._tasks: SimpleQueue[Task | Look] = SimpleQueue()

    def run(self) -> None:
        """Never returns: the process ends when nobody is at the other end any more."""
        threading.Thread(target=self._listen, daemon=True).start()
        while True:
            task = self._tasks.get()
            try:
                self._connection.send(self._glimpsed(task) if isinstance(task, Look) else self._answer(task))
            except OSError:
                os._exit(0)

    def _listen(self) -> None:
        try:
            while True:
                self._tasks.put(self._connection.recv())
        except (EOFError, OSError):
            os._exit(0)

    def _answer(self, task: Task) -> tuple:
        try:
            for key in task.results:
                self._outcome(key)
            for file in task.files:
                self._file(file)
        except KeyError:
            return ("missing",)
        return "stands", self._computed(task)

    def _glimpsed(self, look: Look) -> tuple:
        """Puts a glimpse into the store. Where there is none, what is wrong is said once the row is computed."""
        *before, last = look.tasks
        try:
            for task in before:
                if self._results.get(task.key) is None:
                    state = performed(task, self._value, self._file)
                    if state.outcome is None:
                        return "glimpsed", False
                    self._results.keep(task.key, state.outcome)
            self._store.put(look.key, last.ready(self._value, self._file).glimpse())
        except Exception:
            return "glimpsed", False
        return "glimpsed", True

    def _computed(self, task: Task) -> State:
        def show(coarse: object, enough: bool) -> None:
            """By way of the store: whoever is held while sending keeps the engine waiting."""
            with suppress(OSError):
                self._store.put(f"{task.key}-coarse", coarse)
                self._connection.send(("coarse", f"{task.key}-coarse", enough))

        state = performed(task, self._value, self._file, Progress(_Telling(self._connection), show=show))
        if state.outcome is None:
            return state
        try:
            self._store.put(task.key, state.outcome)
        except OSError as error:
            return no_room(self._store, error)
        except Exception as error:  # what was put off until now is done to be kept
            return broken_by(error, task.key)
        self._results.keep(task.key, state.outcome)
        return State("done", key=task.key)

    def _value(self, taken: ResultOf) -> Any:
        return taken_from(self._outcome(taken.key), taken)

    def _outcome(self, key: str) -> Outcome:
        outcome = self._results.get(key)
        if outcome is None:
            outcome = self._store.get(key)
            self._results.keep(key, outcome)
        return outcome

    def _file(self, wanted: FileOf) -> Asset:
        if wanted.sha256 not in self._files:
            self._files[wanted.sha256] = Asset(wanted.name, self._store.get(wanted.sha256))
        return self._files[wanted.sha256]


class _Telling:
    """Tells progress, but not too often."""

    def __init__(self, connection: Connection) -> None:
        self._connection, self._last = connection, 0.0

    def __call__(self, fraction: float, text: str) -> None:
        now = time.monotonic()
        if now - self._last >= EVERY:
            self._last = now
            self._connection.send(("progress", fraction, text))


def begin(descriptor: int, store: Store) -> None:
    """The life of a forked process: it ends with the one it was forked from, and has a process group of its own."""
    end_with_parent()
    with suppress(OSError):
        os.setpgid(0, 0)
    for each in (signal.SIGCHLD, signal.SIGINT):
        signal.signal(each, signal.SIG_DFL)
    signal.set_wakeup_fd(-1)
    Worker(Connection(descriptor), store).run()
