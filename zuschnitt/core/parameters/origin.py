"""What a source came from: nobody chooses it, so no two can be mismatched."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from ..errors import Refused
from ..record import record
from .parameter import Parameter, ResultOf, stands_in

if TYPE_CHECKING:
    from ..job.route import Job, Row


@record
class Origin(Parameter):
    """The form of a blank, the blank of artwork: the row of one of the kinds ``accepts`` that the source ``of`` has."""

    accepts: tuple[str, ...] = ()
    of: str = ""
    kind = "origin"
    follows = True

    def check(self, job: Job, row: Row | None, title: str, value: Any) -> None:
        if value:
            raise Refused(f"The {self.name} of {title} follows from its {self.of}; choose that.")

    def taken(self, job: Job, row: Row) -> tuple[Row, ...]:
        found = job.origin_of(row, self)
        return () if found is None else (found,)

    def in_task(self, job: Job, row: Row, title: str, keys: Mapping[str, str]) -> ResultOf | None:
        found = job.origin_of(row, self)
        return ResultOf.row(found, self.accepts, keys) if found is not None else None


def origin(of: str, *accepts: str) -> Any:
    """What the source ``of`` came from."""
    return stands_in(Origin(accepts=accepts, of=of, hint=f"that which the {of} came from"))
