"""One of several words."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import field
from typing import TYPE_CHECKING, Any

from ..errors import Refused
from ..record import record
from .parameter import Parameter, stands_in

if TYPE_CHECKING:
    from ..job.route import Job, Row


@record
class Choice(Parameter):
    """``choices`` are the values and how they read."""

    choices: Mapping[str, str] = field(default_factory=dict)
    kind = "choice"
    chosen = True

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> str:
        if value not in self.choices:
            raise Refused(f"'{value}' is not one of {', '.join(self.choices)}; choose one of them.")
        return str(value)

    def reads(self, job: Job, row: Row) -> str:
        written = self.written(row)
        return self.choices.get(written, str(written))

    def options(self, job: Job, row: Row) -> list[tuple[str, str]]:
        return list(self.choices.items())


def choice(default: str, choices: Mapping[str, str], hint: str) -> Any:
    return stands_in(Choice(default=default, choices=choices, hint=hint))
