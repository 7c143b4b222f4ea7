"""Keeps with picks what the picked faces are like, so that they are found again when the form is changed."""

from __future__ import annotations

from collections.abc import Callable

from ..core.errors import Refused
from ..core.form.form import Form
from ..core.form.lasting import remembered
from ..core.operations.registry import entries
from ..core.route import Job, Row, picked_faces


def with_memory(before: Job, job: Job, form_of: Callable[[Row | None], Form | None]) -> Job:
    """The job with what is known of faces that were not picked ``before``; ``form_of`` is the form a row gives."""
    old = {row.id: row for row in before.rows}
    for row in job.rows:
        known = entries().get(row.operation)
        memory = next((p for p in known.parameters if p.kind == "memory"), None) if known else None
        if known is None or memory is None:
            continue
        text = row.parameters.get(memory.of)
        if row.id in old and old[row.id].parameters.get(memory.of) == text:
            continue
        source = next(p for p in known.parameters if p.kind == "source" and "form" in p.accepts)
        form = form_of(job.source(row, source))
        try:
            numbers = picked_faces(text)
        except Refused:
            numbers = "all"
        value = "" if form is None or isinstance(numbers, str) else remembered(form, numbers)
        if row.parameters.get(memory.name, "") != value:
            job = job.set(row.id, memory.name, value)
    return job
