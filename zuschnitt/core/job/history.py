"""Undo and redo: a list of jobs."""

from __future__ import annotations

from dataclasses import field, replace

from ..record import record
from .route import Job

DEEPEST = 500


@record
class History:
    """``past`` and ``future`` are jobs with what was done to leave them; ``now`` is the present one.

    Edits with the same ``merge`` key become one step, so that a drag is undone at once.
    """

    now: Job
    past: tuple[tuple[Job, str], ...] = field(default=(), repr=False)
    future: tuple[tuple[Job, str], ...] = field(default=(), repr=False)
    merge: str = ""

    def edited(self, job: Job, what: str, merge: str = "") -> History:
        if job == self.now:
            return self
        if merge and merge == self.merge:
            if self.past and job == self.past[-1][0]:  # back to where the step began: no step
                return History(job, self.past[:-1], (), merge="")
            return replace(self, now=job, future=())
        return History(job, (*self.past, (self.now, what))[-DEEPEST:], (), merge)

    def with_step_ended(self) -> History:
        """The next edit begins a new step, whatever its key."""
        return replace(self, merge="")

    def undone(self) -> History:
        if not self.past:
            return self
        job, what = self.past[-1]
        return History(job, self.past[:-1], ((self.now, what), *self.future))

    def redone(self) -> History:
        if not self.future:
            return self
        job, what = self.future[0]
        return History(job, (*self.past, (self.now, what)), self.future[1:])

    @property
    def undo_what(self) -> str:
        return self.past[-1][1] if self.past else ""

    @property
    def redo_what(self) -> str:
        return self.future[0][1] if self.future else ""
