"""Several earlier rows by their numbers, and the names that go with them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from ..errors import Lacking, Refused
from ..record import record
from .parameter import Parameter, ResultOf, stands_in

if TYPE_CHECKING:
    from ..job.route import Job, Row

ALL, NONE = "all", "none"


@record
class Rows(Parameter):
    """Row numbers with commas between, all rows above that give one of the kinds ``accepts``, or none.

    All are those of the first kind that any row gives.
    """

    accepts: tuple[str, ...] = ()
    kind = "rows"
    how = "type the numbers of rows with commas between, all, or none"
    as_list = as_number = True

    def check(self, job: Job, row: Row | None, title: str, value: Any) -> None:
        if row is not None:
            self.found(job, row, value)

    def found(self, job: Job, row: Row, value: Any) -> tuple[Row, ...]:
        """The rows that are meant. Raises Refused for one that is not there, or gives something else."""
        above = job.rows[: job.place(row.id)]
        fitting = [other for other in above if set(other.gives) & set(self.accepts)]
        texts = [str(part).strip() for part in (value if isinstance(value, list) else str(value).split(","))]
        if texts == [NONE]:
            return ()
        if texts in ([ALL], [""], []):
            first = [other for other in fitting if self.accepts[0] in other.gives]
            return tuple(other for other in first or fitting if other.enabled)
        found = []
        for text in texts:
            meant = next((other for other in fitting if text in (str(other.number), other.id)), None)
            if meant is None:
                known = ", ".join(str(other.number) for other in fitting) or "none"
                raise Refused(f"Row {text} gives nothing that is taken here; there are {known} above.")
            found.append(meant)
        return tuple(found)

    def taken(self, job: Job, row: Row) -> tuple[Row, ...]:
        try:
            return self.found(job, row, self.written(row))
        except Refused:
            return ()

    def in_task(self, job: Job, row: Row, title: str, keys: Mapping[str, str]) -> tuple[ResultOf, ...]:
        rows = self.found(job, row, self.written(row))
        if not rows and self.default != NONE:
            raise Lacking(f"{title} waits for {self.short_hint}; add rows above that give them.")
        return tuple(ResultOf.row(taken, self.accepts, keys) for taken in rows)

    def reads(self, job: Job, row: Row) -> str:
        text = str(self.written(row)).strip()
        if text == NONE:
            return "no other"
        if text in (ALL, ""):
            return f"all {len(self.taken(job, row))} above" if self.taken(job, row) else "all that is above"
        return f"{'rows' if ',' in text else 'row'} {text}"


@record
class NamesOf(Parameter):
    """The names of the rows that the value ``of`` names; nobody writes it."""

    of: str = ""
    kind = "names"
    follows = True

    def in_task(self, job: Job, row: Row, title: str, keys: Mapping[str, str]) -> tuple[str, ...]:
        rows = job.parameter(row, self.of)
        assert isinstance(rows, Rows)
        return tuple(_name(job, taken) for taken in rows.taken(job, row))


def _name(job: Job, row: Row) -> str:
    """Its own title, else what the row of its blank is called."""
    blank = None if row.title else job.origin(row, ("blank",))
    return row.name if blank is None else blank.name


def rows(*accepts: str, hint: str, default: str = ALL) -> Any:
    """Earlier rows that give one of these kinds; with NONE as ``default`` there need not be any."""
    return stands_in(Rows(default=default, accepts=accepts, hint=hint))


def names_of(of: str) -> Any:
    return stands_in(NamesOf(of=of, hint="the names of these rows"))
