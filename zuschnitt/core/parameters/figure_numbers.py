"""Figures of a drawing, corners or edges, by their numbers."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from ..errors import Refused
from ..record import record
from .parameter import Parameter, stands_in

if TYPE_CHECKING:
    from ..job.route import Job, Row


@record
class FigureNumbers(Parameter):
    """Numbers with commas between, of what ``noun`` calls one of; figures made of others stand below them."""

    noun: str = "figure"
    kind = "figures by number"
    how = "type their numbers with commas between"
    as_list = as_number = True

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> tuple[int, ...]:
        parts = value if isinstance(value, list) else str(value).split(",")
        texts = [str(part).strip() for part in parts if str(part).strip()]
        if not all(text.isdigit() for text in texts):
            raise Refused(f"'{value}' must be numbers of {self.noun}s with commas between, such as 1, 4.")
        return tuple(dict.fromkeys(int(text) for text in texts))

    def reads(self, job: Job, row: Row) -> str:
        text = str(self.written(row)).strip()
        return f"{self.noun if text.isdigit() else self.noun + 's'} {text}" if text else self.words


def figure_numbers(hint: str) -> Any:
    return stands_in(FigureNumbers(words="no figure", hint=hint))
