"""Names of layers, groups and colours of a drawing, with commas between."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from ..record import record
from .parameter import Parameter, stands_in

if TYPE_CHECKING:
    from ..job.route import Job, Row


@record
class Sorts(Parameter):
    """As the drawing names them, in any letters."""

    kind = "sorts"
    how = "type names of layers or colours with commas between, such as outline, red, #a05000"
    as_list = True

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> tuple[str, ...]:
        parts = value if isinstance(value, list) else str(value).split(",")
        return tuple(dict.fromkeys(str(part).strip().lower() for part in parts if str(part).strip()))

    def reads(self, job: Job, row: Row) -> str:
        return ", ".join(self.resolved(self.written(row), {})) or self.words


def sorts(words: str, hint: str) -> Any:
    """Names of layers, groups and colours; none of them reads as ``words``."""
    return stands_in(Sorts(hint=hint, words=words))
