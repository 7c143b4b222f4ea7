"""Rows of a batch computed here, in processes of their own, or by the workers of a scheduler."""

from __future__ import annotations

import multiprocessing
from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from typing import Any

from ..errors import CannotBeDone, Refused
from ..files.apart import end_with_parent
from .piece import Piece, Wanted, made
from .table import TableRow

AHEAD = 3
"""So many rows for each worker wait at most."""
TRIES = 2
"""A row that ends its worker is tried so often."""
PATIENCE = 15
"""A scheduler is waited for so many seconds."""


def here(content: bytes, rows: Iterable[TableRow], wanted: Wanted) -> Iterator[Piece]:
    """One row after the other, in this process."""
    for row in rows:
        yield made(content, row.name, row.values, wanted)


def in_processes(content: bytes, rows: Sequence[TableRow], wanted: Wanted, workers: int) -> Iterator[Piece]:
    """Rows in ``workers`` processes, as they are done. A row that ends its process twice is given up."""
    waiting, ended = list(reversed(rows)), dict.fromkeys((row.name for row in rows), 0)
    while waiting:
        context = multiprocessing.get_context("spawn")
        with ProcessPoolExecutor(workers, mp_context=context, initializer=end_with_parent) as pool:
            out: dict[Future[Piece], TableRow] = {}
            try:
                while waiting or out:
                    while waiting and len(out) < AHEAD * workers:
                        row = waiting.pop()
                        out[pool.submit(made, content, row.name, row.values, wanted)] = row
                    for future in wait(out, return_when=FIRST_COMPLETED).done:
                        piece = future.result()
                        del out[future]
                        yield piece
            except BrokenProcessPool:
                for row in out.values():  # which of them it was nobody knows: all are tried again, one less often
                    ended[row.name] += 1
                    if ended[row.name] < TRIES + (len(out) > 1):
                        waiting.append(row)
                    else:
                        yield Piece(row.name, reason="Its process ended without a word; the row is too much for it.")


def at_scheduler(content: bytes, rows: Sequence[TableRow], wanted: Wanted, address: str) -> Iterator[Piece]:
    """Rows by the workers of a running dask.distributed scheduler, as they are done.

    A worker that goes away is made up for by the others. Raises Refused where there is no such scheduler, and
    CannotBeDone where it goes away meanwhile.
    """
    client = _client(address)
    try:
        job = client.scatter(content, broadcast=False, hash=False)
        yield from _ahead(client, rows, lambda row: (made, job, row.name, row.values, wanted))
    finally:
        client.close(timeout=2)


def _client(address: str) -> Any:
    import logging

    from distributed import Client

    logging.getLogger("distributed").setLevel(logging.CRITICAL)
    try:
        return Client(address, timeout=PATIENCE, set_as_default=False)
    except (OSError, TimeoutError, ValueError, KeyError) as error:
        raise Refused(
            f"No scheduler answers at {address}; start one with 'dask scheduler', or leave --scheduler out."
        ) from error


def _ahead(client: Any, rows: Sequence[TableRow], task: Callable[[TableRow], tuple]) -> Iterator[Piece]:
    from distributed import as_completed
    from distributed.scheduler import KilledWorker

    ahead = max(AHEAD * sum(client.nthreads().values()), AHEAD)
    waiting = list(reversed(rows))
    running = as_completed(loop=client.loop)
    names: dict[str, str] = {}

    def more() -> None:
        while waiting and running.count() < ahead:
            row = waiting.pop()
            future = client.submit(*task(row), pure=False, retries=TRIES)
            names[future.key] = row.name
            running.add(future)

    more()
    while not running.is_empty():
        future = next(running)
        name = names.pop(future.key)
        if future.status == "cancelled" or client.status not in ("running", "connecting"):
            raise CannotBeDone("The scheduler went away; what was made stays. Start it again, and the batch once more.")
        error = future.exception()
        if error is None:
            yield future.result()
        elif isinstance(error, KilledWorker):
            yield Piece(name, reason="Its worker ended without a word, several times; the row is too much for it.")
        else:
            yield Piece(name, reason=f"Its worker could not compute it ({type(error).__name__}: {str(error)[:120]}).")
        future.release()
        more()
