"""Move a relief: one of several drawn anew, as by dragging one of its ends on the form."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from ..errors import Refused
from ..parameters import number, origin, points, source
from ..progress import Progress
from ..results.reliefs import ReliefsResult
from ..results.result import Figure, Outcome, outcome
from ..wording import coordinates, counted, length
from .registry import entry, operation

if TYPE_CHECKING:
    from ..geometry.curves import Array
    from ..job.route import Job, Row


KEY = "move_relief"


@operation(
    KEY,
    title="Move a relief",
    stage="form",
    group="Develop",
    gives="reliefs",
    takes="reliefs, which of them, and points on the form",
    makes="the same reliefs, this one through the points",
)
class MoveRelief:
    reliefs: Any = source("reliefs", hint="the reliefs of which one is moved")
    form: Any = origin("reliefs", "form")
    which: Any = number(1, "", "the number of the relief", low=1)
    through: Any = points("points yet to be clicked", "points on the form, from its edge inwards")

    sentence = "Move relief {which} of {reliefs}, so that it runs through {through}."

    def run(self, progress: Progress) -> Outcome:
        from .drawn_relief import drawn_relief

        place = round(self.which) - 1
        if place >= len(self.reliefs):
            there = counted(len(self.reliefs), "relief")
            raise Refused(f"There is no relief {place + 1}; there are {there}, so take one of them.")
        drawn = drawn_relief(self.form, self.through, "drag one of its ends")
        before = self.reliefs[place].length
        moved = (*self.reliefs[:place], drawn, *self.reliefs[place + 1 :])
        more = (Figure("length", length(drawn.length), "form"), Figure("before", length(before), "form"))
        return outcome(ReliefsResult(moved), more=more, brief=f"relief {place + 1} of {len(moved)}")


def with_relief_moved(job: Job, row: Row, number: int, points: Array) -> tuple[Job, str]:
    """The job in which relief ``number`` that ``row`` gives runs through ``points`` (n, 3), and the id of the row that
    says so.

    A row that moves the same relief is changed; else one is added, and what took the reliefs takes them from it.
    """
    text = coordinates(*points)
    if row.operation == KEY and str(row.parameters["which"]).strip() == str(number):
        return job.set(row.id, "through", text), row.id
    job = job.added(KEY, after=row.id, reliefs=row.id, which=str(number), through=text)
    moved = job.rows[job.place(row.id) + 1]
    for other in job.rows[job.place(moved.id) + 1 :]:
        parameter = entry(other.operation).source_of("reliefs")
        taken = job.source(other, parameter) if parameter is not None else None
        if parameter is not None and taken is not None and taken.id == row.id:
            job = job.set(other.id, parameter.name, moved.id)
    return job, moved.id
