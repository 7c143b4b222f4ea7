"""The engine process: evaluates the newest job it was sent, and says how each row stands."""

from __future__ import annotations

import os
import sys
import threading
import time
from dataclasses import replace
from multiprocessing.connection import Connection

from ..core.evaluate import Evaluator, keys
from ..core.operations.registry import entries
from ..core.progress import Progress
from ..core.route import Asset, Job, Row

EVERY = 0.05
"""Progress is told no more often than this, in seconds."""


class Worker:
    """Messages in: ("evaluate", generation, job, files by name, new files, crashed), ("cancel",), ("end",).

    The job comes without its files: these go by name and digest, and each comes but once, to be hashed but once. Out:
    see ``engine.Engine``.
    """

    def __init__(self, connection: Connection) -> None:
        self._connection = connection
        self._evaluator = Evaluator()
        self._news = threading.Condition()
        self._waiting: tuple[int, Job, dict[str, str]] | None = None
        self._wanted: set[str] = set()
        self._cancelled = False
        self._sent: dict[str, str] = {}
        self._files: dict[tuple[str, str], Asset] = {}

    def run(self) -> None:
        entries()
        threading.Thread(target=self._listen, daemon=True).start()
        import scipy.spatial  # noqa: F401 - slow to import; the first job is not there yet

        while True:
            with self._news:
                while self._waiting is None:
                    self._news.wait()
                (generation, job, crashed), self._waiting = self._waiting, None
                self._cancelled = False
            self._evaluate(generation, job, crashed)

    def _listen(self) -> None:
        try:
            while True:
                message = self._connection.recv()
                if message[0] == "evaluate":
                    _, generation, job, named, fresh, crashed = message
                    self._files.update({key: Asset(key[0], content) for key, content in fresh.items()})
                    job = replace(job, assets={key[0]: self._files[key] for key in named})
                    wanted = set(keys(job).values())
                    with self._news:
                        self._waiting, self._wanted = (generation, job, crashed), wanted
                        self._news.notify()
                elif message[0] == "cancel":
                    self._cancelled = True
                elif message[0] == "end":
                    os._exit(0)
        except (EOFError, OSError):
            os._exit(0)  # the window is gone, whatever is being computed

    def _evaluate(self, generation: int, job: Job, crashed: dict[str, str]) -> None:
        for row, state in self._evaluator.evaluate(job, lambda r, k: self._progress(generation, r, k), crashed):
            if self._waiting is not None and state.status == "stopped":
                return  # a newer job is there: what is left of this one interests nobody
            outcome = state.outcome
            if outcome is not None and self._sent.get(row.id) == state.key:
                said = replace(state, outcome=None)
            else:
                said = state
                if outcome is not None:
                    self._sent[row.id] = state.key
            self._connection.send(("row", generation, row.id, said))
        self._connection.send(("finished", generation))

    def _progress(self, generation: int, row: Row, key: str) -> Progress:
        last = 0.0
        self._connection.send(("running", generation, row.id, key))

        def tell(fraction: float, text: str) -> None:
            nonlocal last
            now = time.monotonic()
            if now - last >= EVERY:
                last = now
                self._connection.send(("progress", generation, row.id, fraction, text))

        def stopped() -> bool:
            return self._cancelled or (self._waiting is not None and key not in self._wanted)

        def show(coarse: object) -> None:
            self._connection.send(("coarse", generation, row.id, coarse))

        return Progress(tell, stopped, show)


def main() -> None:
    """Entry of the process; its one argument is the file descriptor of the connection."""
    os.nice(4)  # the window's own drawing goes first
    Worker(Connection(int(sys.argv[1]))).run()


if __name__ == "__main__":
    main()
