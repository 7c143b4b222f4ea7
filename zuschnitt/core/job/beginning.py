"""Where a new row goes and what it works on, by the row that is selected."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from ..operations.registry import Entry, entry, known_entry
from ..parameters.source import Source
from .route import Job, Row


def begun(job: Job, operation: str, selected: str | None, **parameters: Any) -> tuple[Job, str]:
    """The job with a new row, and that row's id.

    It works on the selected row, or on what that works on, whatever else stands nearer above. It stands below the
    selected row, or before it where that can take what it gives, and is taken then. What was taken so far goes into
    the new row, and so does what the selected row gives where the new one adds to it.
    """
    known = entry(operation)
    if selected is None:
        made = job.added(operation, **parameters)
        return made, made.rows[-1].id
    here = job.row(selected)
    adding = _adding(known, here.gives)
    slot = _slot(job, here, known) if adding is None else None
    if slot is not None:
        made = _before(job, here, operation, parameters)
        new = made.rows[made.place(here.id) - 1].id
        made = _working_on(made, new, here, known)
        if (earlier := job.source(here, slot)) is not None:
            made = made.set(new, _adding(known, slot.accepts).name, earlier.id)  # type: ignore[union-attr]
        return made.set(here.id, slot.name, new), new
    made = job.added(operation, here.id, **parameters)
    new = made.rows[made.place(here.id) + 1].id
    made = _working_on(made, new, here, known)
    if adding is not None:
        made = made.set(new, adding.name, here.id)
        for row in made.rows[made.place(new) + 1 :]:
            for name in _optional_takers(made, row, here):
                made = made.set(row.id, name, new)
    return made, new


def _sources(known: Entry | None, optional: bool) -> list[Source]:
    every = known.parameters if known is not None else ()
    return [p for p in every if isinstance(p, Source) and p.optional == optional]


def _slot(job: Job, here: Row, known: Entry) -> Source | None:
    """The optional source by which a row could take what a new one gives that works on the same."""
    needed = _sources(known, optional=False)
    if not needed or any(p.fits(here) or job.origin(here, p.accepts) is None for p in needed):
        return None
    for parameter in _sources(known_entry(here.operation), optional=True):
        free = job.source(here, parameter) is None
        if set(parameter.accepts) & set(known.gives) and (free or _adding(known, parameter.accepts) is not None):
            return parameter
    return None


def _adding(known: Entry, kinds: tuple[str, ...]) -> Source | None:
    """The optional source of results of its own kind that an operation adds to."""
    mine = set(kinds) & set(known.gives)
    return next((p for p in _sources(known, optional=True) if mine & set(p.accepts)), None)


def _optional_takers(job: Job, row: Row, taken: Row) -> list[str]:
    """The names of the optional sources by which a row takes another."""
    optional = _sources(known_entry(row.operation), optional=True)
    return [p.name for p in optional if (found := job.source(row, p)) is not None and found.id == taken.id]


def _before(job: Job, here: Row, operation: str, parameters: dict[str, Any]) -> Job:
    """With a new row before ``here``, in its chapter."""
    made = job.added(operation, job.rows[job.place(here.id) - 1].id, **parameters)
    place = made.place(here.id) - 1
    rows = list(made.rows)
    rows[place : place + 2] = replace(rows[place], chapter=here.chapter), replace(rows[place + 1], chapter="")
    return replace(made, rows=tuple(rows))


def _working_on(job: Job, new: str, here: Row, known: Entry) -> Job:
    """With the new row's sources named where others than those that belong to ``here`` are nearer above."""
    for parameter in _sources(known, optional=False):
        row = job.row(new)
        above = job.place(here.id) < job.place(new)
        wanted = here if above and parameter.fits(here) else job.origin(here, parameter.accepts)
        found = job.source(row, parameter)
        if wanted is not None and not parameter.written(row) and (found is None or found.id != wanted.id):
            job = job.set(new, parameter.name, wanted.id)
    return job
