"""From where a figure's place is measured: the origin, the middle, a corner, an edge, a bend line, another figure."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from ..errors import Refused
from ..record import record
from .parameter import Parameter, stands_in

if TYPE_CHECKING:
    from ..job.route import Job, Row

ALONE = ("origin", "middle")
COUNTED = ("corner", "edge", "bend", "figure")


@record
class Anchor:
    """``what`` is measured from, and its ``number`` where there are several of its kind."""

    what: str
    number: int = 0

    def __str__(self) -> str:
        return f"{self.what} {self.number}" if self.number else f"the {self.what}"


@record
class Place(Parameter):
    """origin, middle, corner N, edge N, bend N or figure N."""

    kind = "place"
    picked = "place"
    how = "click it on the blank, or type origin, middle, corner 2, edge 3, bend 1 or figure 4"

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> Anchor:
        found = re.fullmatch(r"\s*(?:the\s+)?([a-z]+)\s*(\d+)?\s*", str(value).lower())
        what, number = found.groups() if found else ("", None)
        if what in ALONE and number is None:
            return Anchor(what)
        if what in COUNTED and number is not None and int(number):
            return Anchor(what, int(number))
        raise Refused(f"'{value}' is no place to measure from; write {self.how.partition('type ')[2]}.")

    def reads(self, job: Job, row: Row) -> str:
        try:
            return str(self.resolved(self.written(row), {}))
        except Refused:
            return str(self.written(row))


def place(default: str, hint: str) -> Any:
    return stands_in(Place(default=default, hint=hint))
