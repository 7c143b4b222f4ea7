"""Keeps with picks what the picked faces and edges are like, and where on its face each point is, so that they are
found again when the form is changed."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..core.errors import Refused
from ..core.form.form import Form
from ..core.form.persistent_names import found_again, remembered
from ..core.form.persistent_points import places_of
from ..core.job.route import Job, Row
from ..core.operations.registry import known_entry
from ..core.parameters.identities import Identities
from ..core.parameters.picks import Edges, Faces
from ..core.parameters.vector import Point, Points


def with_identities(before: Job, job: Job, form_of: Callable[[Row | None], Form | None]) -> Job:
    """The job with what is known of what was not picked ``before``; ``form_of`` is the form a row gives."""
    old = {row.id: row for row in before.rows}
    for row in job.rows:
        known = known_entry(row.operation)
        kept_by = next((p for p in known.parameters if isinstance(p, Identities)), None) if known else None
        if known is None or kept_by is None:
            continue
        earlier = old[row.id].parameters if row.id in old else {}
        source = known.source_of("form")
        likes = dict(row.parameters.get(kept_by.name) or {})
        for pick in known.parameters:
            if isinstance(pick, Faces | Edges) and earlier.get(pick.name) != row.parameters.get(pick.name):
                likes.pop(pick.name, None)
                form, numbers = form_of(job.source(row, source) if source else None), _numbers(row, pick)
                if form is not None and numbers:
                    likes[pick.name] = remembered(form, numbers, pick.what)
            if isinstance(pick, Points | Point) and earlier.get(pick.name) != row.parameters.get(pick.name):
                kept = likes.pop(pick.name, None) or {}
                form, points = form_of(job.source(row, source) if source else None), _points(job, row, pick)
                if form is not None and len(points):
                    likes[pick.name] = places_of(form, points, kept)
        if (row.parameters.get(kept_by.name) or {}) != likes:
            job = job.set(row.id, kept_by.name, likes or "")
    return job


def picks_now(form: Form, row: Row, pick: Faces | Edges) -> tuple[int, ...]:
    """The numbers that the picked faces or edges of a row have on the form as it is now; none where all are meant.

    Raises Refused where one is not there any more.
    """
    known = row.parameters.get("remembered") or {}
    return found_again(form, _numbers(row, pick), known.get(pick.name, ""), pick.what)[0]


def _points(job: Job, row: Row, pick: Points | Point) -> np.ndarray:
    try:
        return np.array(pick.resolved(pick.written(row), job.numbers) or (), float).reshape(-1, 3)
    except Refused:  # its row says so
        return np.zeros((0, 3))


def _numbers(row: Row, pick: Faces | Edges) -> tuple[int, ...]:
    try:
        numbers = pick.resolved(pick.written(row), {})
    except Refused:  # its row says so
        return ()
    return () if isinstance(numbers, str) else numbers
