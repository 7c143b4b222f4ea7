"""Words, as they are to stand in the shop."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from ..errors import Refused
from ..record import record
from .parameter import Parameter, stands_in

if TYPE_CHECKING:
    from ..job.route import Job, Row

LONGEST = 400


@record
class Words(Parameter):
    """A line of text."""

    kind = "words"
    how = "type the words"

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> str:
        text = str(value)
        if len(text) > LONGEST:
            raise Refused(f"A text of {len(text):,} letters is too long; at most {LONGEST}.")
        return text

    def reads(self, job: Job, row: Row) -> str:
        text = str(self.written(row))
        return f"“{text}”" if text.strip() else self.words


def words(default: str, empty: str, hint: str) -> Any:
    """A line of text; none reads as ``empty``."""
    return stands_in(Words(default=default, words=empty, hint=hint))
