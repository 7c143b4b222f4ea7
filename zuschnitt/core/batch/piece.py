"""One row of a batch computed: a job with some of its values set, and the files that are asked for."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import field
from functools import lru_cache
from typing import Any

from ... import __version__
from ..errors import CannotBeDone, ZuschnittError
from ..job.evaluate import Evaluator, State
from ..job.job_file import job_from_bytes
from ..job.route import Job
from ..record import record
from ..results.result import Outcome, Printing
from ..results.writing import written

KEPT = 4
"""So many jobs stay open in a process."""


@record
class Wanted:
    """What is made of each row: files with these ``endings``, of the job's ``row`` by its number, or of the last."""

    endings: tuple[str, ...]
    row: str = ""


@record
class Piece:
    """What became of one row: ``files`` by their ending, ``figures`` by their labels, or the ``reason`` why not."""

    name: str
    files: dict[str, bytes] = field(default_factory=dict, repr=False)
    figures: dict[str, str] = field(default_factory=dict)
    reason: str = ""


def key_of(job: str, values: Sequence[tuple[str, str]], wanted: Wanted) -> str:
    """A digest of all that a row's files follow from; ``job`` is that of the job's content."""
    return hashlib.sha256(repr((job, tuple(values), wanted, __version__)).encode()).hexdigest()


def made(content: bytes, name: str, values: Sequence[tuple[str, str]], wanted: Wanted) -> Piece:
    """Computes a row of the job whose file has this ``content``. Whatever goes wrong becomes its reason."""
    try:
        job, evaluator = _opened(content)
        for head, text in values:
            job = job.with_value(head, text)
        return _written(job, evaluator, name, wanted)
    except ZuschnittError as error:
        return Piece(name, reason=error.sentence)
    except MemoryError:
        return Piece(name, reason="There is not enough memory for this row; take larger triangles.")
    except Exception as error:  # a mistake of ours must break one row, not the batch
        why = f"{type(error).__name__}: {error}"[:200]
        return Piece(name, reason=f"This row met a mistake in the program ({why}); please report it.")


@lru_cache(maxsize=KEPT)
def _opened(content: bytes) -> tuple[Job, Evaluator]:
    return job_from_bytes(content, "the job"), Evaluator(kept=4 * KEPT)


def _written(job: Job, evaluator: Evaluator, name: str, wanted: Wanted) -> Piece:
    job, chosen = _up_to(job, wanted.row)
    states: dict[str, State] = {row.id: state for row, state in evaluator.evaluate(job)}
    for row in job.rows:
        state = states[row.id]
        if state.outcome is None and state.status != "off":
            raise CannotBeDone(f"Row {row.number} ({row.name}): {state.reason.rstrip('.')}.")
    outcomes = [states[row.id].outcome for row in job.rows]
    there: list[Outcome] = [outcome for outcome in outcomes if outcome is not None]
    last = states[chosen].outcome
    assert last is not None
    files: dict[str, bytes] = {}
    for ending in wanted.endings:
        content = written([last], ending, name, Printing()) or written(there, ending, name, Printing())
        if content is None:
            raise CannotBeDone(f"No row of the job gives a file of the kind {ending.upper()}; leave --{ending} out.")
        files[ending] = content
    figures = {figure.label: figure.text for outcome in (*there[:-1], last) for figure in outcome.figures}
    return Piece(name, files, figures)


def _up_to(job: Job, number: str) -> tuple[Job, str]:
    """The job with only the rows that the chosen one needs, and that row's id.

    Without a number it is the last cut file, or where there is none the last row.
    """
    if number:
        row = job.row(number)
    else:
        enabled = [row for row in job.rows if row.enabled]
        if not enabled:
            raise CannotBeDone("The job has no row that is switched on, so there is nothing to make; switch one on.")
        row = next((row for row in reversed(enabled) if row.operation == "cut_file"), enabled[-1])
    needed, waiting = set(), [row]
    while waiting:
        here = waiting.pop()
        if here.id not in needed:
            needed.add(here.id)
            waiting.extend(job.sources(here))
    for other in [each for each in job.rows if each.id not in needed]:
        job = job.removed(other.id)
    return job, row.id


def described(piece: Piece, key: str) -> dict[str, Any]:
    """A row's part of the report."""
    about: dict[str, Any] = {"name": piece.name, "status": "failed" if piece.reason else "done"}
    if piece.reason:
        return {**about, "reason": piece.reason, "files": []}
    names = [f"{piece.name}.{ending}" for ending in piece.files]
    sums = [hashlib.sha256(content).hexdigest() for content in piece.files.values()]
    return {**about, "files": names, "figures": piece.figures, "key": key, "sha256": sums}
