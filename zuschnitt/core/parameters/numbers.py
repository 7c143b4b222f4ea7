"""A list of numbers or expressions, with commas between."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from ..errors import Refused
from ..expressions import length_of
from ..record import record
from .number import LARGEST
from .parameter import Parameter, stands_in
from .vector import from_field, in_field, split, with_unit

if TYPE_CHECKING:
    from ..job.route import Job, Row

MOST = 10_000


@record
class Numbers(Parameter):
    """Lengths, or none."""

    kind = "numbers"
    reckoned = True
    how = "type numbers or expressions with commas between"
    as_list = True

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> tuple[float, ...]:
        parts = split(value) if isinstance(value, str) else list(value)
        parts = [part for part in parts if str(part).strip()]
        if len(parts) > MOST:
            raise Refused(f"{self.hint}: more than {MOST:,} of them; leave some out.")
        found = tuple(length_of(part, numbers) for part in parts)
        if any(abs(each) > LARGEST for each in found):
            raise Refused(f"{self.hint}: one is far too large; at most {LARGEST:g}.")
        return found

    def reads(self, job: Job, row: Row) -> str:
        return with_unit(self.typed(job, row), job.unit) or self.words

    def typed(self, job: Job, row: Row) -> str:
        return in_field(self.written(row), job.unit)

    def kept(self, job: Job, text: str) -> str:
        return from_field(text, job.unit)


def numbers(words: str, hint: str) -> Any:
    """Lengths with commas between; none of them reads as ``words``."""
    return stands_in(Numbers(words=words, hint=hint))
