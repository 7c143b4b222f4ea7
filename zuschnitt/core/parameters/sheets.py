"""Sizes of sheets: width × height, several with commas between."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from ..errors import Refused
from ..expressions import length_of
from ..record import record
from ..units import kept, typed
from .parameter import Parameter, stands_in
from .vector import with_unit

if TYPE_CHECKING:
    from ..job.route import Job, Row


@record
class Sheets(Parameter):
    """W x H, W x H, …: each is taken once, in this order, the last as often as it is needed."""

    kind = "sheets"
    how = "type width x height, such as 1500 x 1000, several with commas between"
    as_list = True
    reckoned = True

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> tuple[tuple[float, float], ...]:
        found = []
        for part in _parts(value):
            sides = _sides(part)
            if len(sides) != 2:
                raise Refused(f"'{part}' is no size of a sheet; write width x height, such as 1500 x 1000.")
            width, height = (length_of(side, numbers) for side in sides)
            if not min(width, height) > 0 or max(width, height) > 1e6:
                raise Refused(f"A sheet of {width:g} × {height:g} mm cannot be; change its size.")
            found.append((width, height))
        return tuple(found)

    def reads(self, job: Job, row: Row) -> str:
        return with_unit(self.typed(job, row), job.unit) or self.words

    def typed(self, job: Job, row: Row) -> str:
        return ", ".join(
            " x ".join(typed(side, job.unit) for side in _sides(part)) for part in _parts(self.written(row))
        )

    def kept(self, job: Job, text: str) -> str:
        if job.unit == "mm":
            return text
        return ", ".join(" x ".join(kept(side, job.unit) for side in _sides(part)) for part in _parts(text))


def _parts(value: Any) -> list[str]:
    parts = value if isinstance(value, list) else str(value).split(",")
    return [str(part).strip() for part in parts]


def _sides(part: str) -> list[str]:
    return re.split(r"\s*[x×]\s*", part)


def sheets(default: str, hint: str) -> Any:
    return stands_in(Sheets(default=default, hint=hint))
