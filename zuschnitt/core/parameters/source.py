"""The result of an earlier row."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from ..errors import Lacking, Refused
from ..record import record
from .parameter import Parameter, ResultOf, stands_in

if TYPE_CHECKING:
    from ..job.route import Job, Row


@record
class Source(Parameter):
    """``accepts`` are the kinds of result it takes; empty means the nearest row above that gives one.

    One that is ``optional`` may stay empty; one that is ``on`` another source must have come from what that names.
    """

    accepts: tuple[str, ...] = ()
    optional: bool = False
    on: str = ""
    kind = "source"
    chosen = True

    def fits(self, row: Row) -> bool:
        """Whether a row gives what it takes."""
        return bool(set(row.gives) & set(self.accepts))

    def check(self, job: Job, row: Row | None, title: str, value: Any) -> None:
        if not value or row is None:
            return
        found = next((other for other in job.rows[: job.place(row.id)] if other.id == value), None)
        if found is None or not self.fits(found):
            raise Refused(f"That row does not give {title} {self.short_hint}; choose another.")

    def taken(self, job: Job, row: Row) -> tuple[Row, ...]:
        found = job.source(row, self)
        return () if found is None else (found,)

    def in_task(self, job: Job, row: Row, title: str, keys: Mapping[str, str]) -> ResultOf | None:
        value, taken = self.written(row), job.source(row, self)
        if taken is None and self.optional and not value:
            return None
        if taken is None:
            if value:
                raise Refused(f"The row that gave {title} {self.short_hint} is gone; choose another in its sentence.")
            raise Lacking(f"{title} waits for {self.short_hint}; add a row above that gives it.")
        self._require_together(job, row, taken)
        return ResultOf.row(taken, self.accepts, keys)

    def _require_together(self, job: Job, row: Row, taken: Row) -> None:
        """Raises Refused where what it takes has come from another row than the source it must be on."""
        if not self.on:
            return
        other = job.source_named(row, self.on)
        here, there = job.source(row, other), job.origin(taken, other.accepts)
        if here is not None and there is not None and here.id != there.id:
            raise Refused(
                f"The {self.name} of row {taken.number} are on the {self.on} of row {there.number}, and this row "
                f"works on that of row {here.number}; choose some of the same {self.on}."
            )

    def reads(self, job: Job, row: Row) -> str:
        taken = job.source(row, self)
        return f"{taken.name.lower()} {taken.number}" if taken else self.words

    def options(self, job: Job, row: Row) -> list[tuple[str, str]]:
        fitting = [other for other in job.rows[: job.place(row.id)] if self.fits(other)]
        found = [(other.id, f"{other.number}  {other.name}") for other in fitting]
        if self.optional:
            return [("", self.words), *found]
        return found or [("", "nothing above fits")]


def source(*accepts: str, hint: str) -> Any:
    """The result of an earlier row; empty means the nearest one above that fits."""
    return stands_in(Source(accepts=accepts, hint=hint, words="nothing yet"))


def optional_source(*accepts: str, words: str, hint: str, on: str = "") -> Any:
    """The result of an earlier row, or nothing, which then reads as ``words``; it must have come from ``on``."""
    return stands_in(Source(accepts=accepts, hint=hint, words=words, optional=True, on=on))
