"""Keeps with picks what the picked faces and edges are like, so that they are found again when the form is changed."""

from __future__ import annotations

from collections.abc import Callable

from ..core.errors import Refused
from ..core.form.form import Form
from ..core.form.lasting import found_again, remembered
from ..core.operations.registry import Parameter, entries
from ..core.route import Job, Row, picked_edges, picked_faces


def with_memory(before: Job, job: Job, form_of: Callable[[Row | None], Form | None]) -> Job:
    """The job with what is known of what was not picked ``before``; ``form_of`` is the form a row gives."""
    old = {row.id: row for row in before.rows}
    for row in job.rows:
        parameters = entries()[row.operation].parameters if row.operation in entries() else ()
        memory = next((p for p in parameters if p.kind == "memory"), None)
        if memory is None:
            continue
        earlier = old[row.id].parameters if row.id in old else {}
        source = next(p for p in parameters if p.kind == "source" and "form" in p.accepts)
        known = dict(row.parameters.get(memory.name) or {})
        for pick in parameters:
            if pick.kind in ("faces", "edges") and earlier.get(pick.name) != row.parameters.get(pick.name):
                known.pop(pick.name, None)
                form, numbers = form_of(job.source(row, source)), _numbers(row, pick)
                if form is not None and numbers:
                    known[pick.name] = remembered(form, numbers, pick.kind.removesuffix("s"))
        if (row.parameters.get(memory.name) or {}) != known:
            job = job.set(row.id, memory.name, known or "")
    return job


def picks_now(form: Form, row: Row, pick: Parameter) -> tuple[int, ...]:
    """The numbers that the picked faces or edges of a row have on the form as it is now; none where all are meant.

    Raises Refused where one is not there any more.
    """
    known = row.parameters.get("remembered") or {}
    return found_again(form, _numbers(row, pick), known.get(pick.name, ""), pick.kind.removesuffix("s"))[0]


def _numbers(row: Row, pick: Parameter) -> tuple[int, ...]:
    written = row.parameters.get(pick.name, pick.default)
    try:
        numbers = picked_faces(written) if pick.kind == "faces" else picked_edges(written)
    except Refused:  # its row says so
        return ()
    return () if isinstance(numbers, str) else numbers
