"""The engine as others see it: hand it a job, hear how its rows stand."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import threading
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, replace
from multiprocessing.connection import Connection
from pathlib import Path
from queue import SimpleQueue

from ..core.evaluate import State
from ..core.operations.registry import Outcome
from ..core.route import Job

GRACE = 2.0
"""Seconds between asking the process to stop and ending it."""


@dataclass(frozen=True)
class RowStands:
    """A row's state is known."""

    generation: int
    row_id: str
    state: State


@dataclass(frozen=True)
class RowRuns:
    """A row is being computed; ``fraction`` of it is done."""

    generation: int
    row_id: str
    fraction: float
    text: str


@dataclass(frozen=True)
class RowShows:
    """A first, coarse result of a row that is still being computed."""

    generation: int
    row_id: str
    outcome: Outcome


@dataclass(frozen=True)
class Finished:
    """All rows of that job have a state."""

    generation: int


Event = RowStands | RowRuns | RowShows | Finished


class Engine:
    """Owns the process. ``tell`` is called from a thread of the engine's own; it may be given later.

    A crash of the process breaks the row that ran, with its reason, and starts a new process that
    computes the rest; the row is tried again when it has changed, or after ``retry``.
    """

    def __init__(self, tell: Callable[[Event], None] | None = None) -> None:
        self._early: list[Event] = []
        self._tell = tell or self._early.append
        self._lock = threading.RLock()
        self._generation = 0
        self._job: Job | None = None
        self._running: tuple[int, str, str] | None = None
        self._finished = True
        self._stopping = False
        self._closed = False
        self._crashed: dict[str, str] = {}
        self._outcomes: dict[str, tuple[str, Outcome]] = {}
        self._start()

    @property
    def pid(self) -> int:
        return self._process.pid

    @property
    def generation(self) -> int:
        """That of the job handed over last."""
        return self._generation

    @property
    def idle(self) -> bool:
        return self._finished

    def evaluate(self, job: Job) -> int:
        """Computes what has changed; a job that is being computed is given up. Gives its generation."""
        with self._lock:
            self._generation += 1
            self._job, self._finished = job, False
            self._send(("evaluate", self._generation, job, dict(self._crashed)))
            return self._generation

    def tell_to(self, tell: Callable[[Event], None]) -> None:
        """From now on ``tell`` hears the events; first those that nobody has heard yet."""
        with self._lock:
            for event in self._early:
                tell(event)
            self._early.clear()
            self._tell = tell

    def retry(self) -> None:
        """Tries rows again that ended with a crash."""
        with self._lock:
            self._crashed.clear()
            if self._job is not None:
                self.evaluate(self._job)

    def cancel(self) -> None:
        """Asks the process to stop what it does; ends it where it does not listen."""
        with self._lock:
            if self._finished:
                return
            self._send(("cancel",))
            timer = threading.Timer(GRACE, self._enforce, (self._generation, self._process.pid))
            timer.daemon = True
            timer.start()

    def close(self) -> None:
        """Ends the process."""
        with self._lock:
            self._closed = True
            self._send(("end",))
        try:
            self._process.wait(1.0)
        except subprocess.TimeoutExpired:
            self._process.kill()
            self._process.wait()
        self._listener.join(2.0)  # after this, nothing more is told

    def _start(self) -> None:
        ours, theirs = socket.socketpair()
        environment = {**os.environ, "OPENBLAS_NUM_THREADS": "1"}
        root = str(Path(__file__).parents[2])
        environment["PYTHONPATH"] = os.pathsep.join(filter(None, [root, os.environ.get("PYTHONPATH")]))
        self._process = subprocess.Popen(
            [sys.executable, "-m", "zuschnitt.engine.worker", str(theirs.fileno())],
            pass_fds=[theirs.fileno()],
            stdin=subprocess.DEVNULL,
            stdout=subprocess.DEVNULL,
            env=environment,
        )
        theirs.close()
        self._connection = Connection(ours.detach())
        self._outbox: SimpleQueue = SimpleQueue()
        threading.Thread(target=self._post, args=(self._connection, self._outbox), daemon=True).start()
        self._listener = threading.Thread(target=self._listen, args=(self._connection,), daemon=True)
        self._listener.start()

    def _send(self, message: tuple) -> None:
        """Has a message sent in its turn; never waits for the process to take it."""
        self._outbox.put(message)

    def _post(self, connection: Connection, outbox: SimpleQueue) -> None:
        """Sends what is put into the box, in a thread of its own. A job that a newer one follows is not sent at all.

        The files of a job go to a process once.
        """
        sent: set[tuple[str, str]] = set()
        # it may just have ended, even while it is written to: the listener starts a new one and sends the job anew
        with suppress(OSError, ValueError, TypeError):
            while (message := outbox.get()) is not None:
                waiting = [message]
                while not outbox.empty():
                    waiting.append(outbox.get())
                newest = max((i for i, m in enumerate(waiting) if m is not None and m[0] == "evaluate"), default=-1)
                for i, each in enumerate(waiting):
                    if each is None:
                        return
                    if each[0] != "evaluate":
                        connection.send(each)
                    elif i == newest:
                        connection.send(_with_new_files(each, sent))

    def _listen(self, connection: Connection) -> None:
        try:
            while True:
                self._heard(connection.recv())
        except (EOFError, OSError):
            self._ended(connection)

    def _heard(self, message: tuple) -> None:
        kind, generation = message[0], message[1]
        event: Event | None = None
        with self._lock:
            if kind == "running":
                self._running = (generation, message[2], message[3])
                event = RowRuns(generation, message[2], 0.0, "")
            elif kind == "progress":
                event = RowRuns(*message[1:])
            elif kind == "coarse":
                event = RowShows(*message[1:])
            elif kind == "row":
                _, _, row_id, state = message
                if state.outcome is not None:
                    self._outcomes[row_id] = (state.key, state.outcome)
                elif state.status == "done" and self._outcomes.get(row_id, ("",))[0] == state.key:
                    state = replace(state, outcome=self._outcomes[row_id][1])
                event = RowStands(generation, row_id, state)
            elif kind == "finished":
                self._running = None
                if generation == self._generation:
                    self._finished = True
                event = Finished(generation)
            if event is not None and generation == self._generation and not self._closed:
                self._tell(event)

    def _enforce(self, generation: int, pid: int) -> None:
        with self._lock:
            if self._finished or generation != self._generation or pid != self._process.pid:
                return
            self._stopping = True
            self._process.kill()

    def _ended(self, connection: Connection) -> None:
        """The process is gone: says why, starts a new one, and has the rest computed."""
        code = self._process.wait()
        with self._lock:
            self._outbox.put(None)
            connection.close()
            if self._closed or connection is not self._connection:
                return
            running, self._running = self._running, None
            stopped, self._stopping = self._stopping, False
            self._outcomes.clear()
            self._start()
            job, finished = self._job, self._finished
            if running is not None and not finished and not stopped:
                self._crashed[running[2]] = _crash_reason(code)
        if stopped:
            with self._lock:
                self._finished = True
                generation = self._generation
            if running is not None:
                self._tell(
                    RowStands(generation, running[1], State("stopped", reason="Stopped by you; nothing was changed."))
                )
            self._tell(Finished(generation))
        elif job is not None and not finished:
            self.evaluate(job)


def _with_new_files(message: tuple, sent: set[tuple[str, str]]) -> tuple:
    """An evaluate message whose job names its files, with the content of those alone that were not ``sent`` yet."""
    kind, generation, job, crashed = message
    files = {(name, asset.sha256): asset for name, asset in job.assets.items()}
    fresh = {key: asset.content for key, asset in files.items() if key not in sent}
    sent.update(fresh)
    return kind, generation, replace(job, assets={}), tuple(files), fresh, crashed


def _crash_reason(code: int) -> str:
    how = f"code {code}"
    if code < 0:
        try:
            how = signal.Signals(-code).name
        except ValueError:
            how = f"signal {-code}"
    return f"The computation ended unexpectedly ({how}); it was started anew. Try again, or change a value of this row."
