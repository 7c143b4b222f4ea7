"""The results of all earlier rows that work on the same thing."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from ..record import record
from .choice import Choice
from .parameter import ResultOf, stands_in

if TYPE_CHECKING:
    from ..job.route import Job, Row


@record
class Gathered(Choice):
    """All that gives one of the kinds ``accepts`` and works on what the source ``of`` names; or none of it.

    Nothing is gathered where all the values ``unless`` are given.
    """

    accepts: tuple[str, ...] = ()
    of: str = ""
    unless: tuple[str, ...] = ()
    kind = "sources"

    def wanted(self, job: Job, row: Row) -> bool:
        """Whether a row gathers anything."""
        given = [str(job.parameter(row, name).written(row)).strip() != "" for name in self.unless]
        return self.written(row) != "none" and not (given and all(given))

    def taken(self, job: Job, row: Row) -> tuple[Row, ...]:
        return job.gathered(row, self)

    def in_task(self, job: Job, row: Row, title: str, keys: Mapping[str, str]) -> tuple[ResultOf, ...]:
        return tuple(ResultOf.row(taken, self.accepts, keys) for taken in job.gathered(row, self))


def sources(*accepts: str, of: str, hint: str, unless: tuple[str, ...] = ()) -> Any:
    """The results of all earlier rows that fit and work on the same ``of``, ``unless`` these values are given."""
    choices = {"all": "all that is marked on it", "none": "nothing else"}
    return stands_in(Gathered(default="all", accepts=accepts, of=of, unless=unless, hint=hint, choices=choices))
