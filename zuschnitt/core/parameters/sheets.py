"""Sizes of sheets: width × height, several with commas between."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ..errors import Refused
from ..expressions import length_of
from .parameter import Parameter, stands_in


@dataclass(frozen=True)
class Sheets(Parameter):
    """W x H, W x H, …: each is taken once, in this order, the last as often as it is needed."""

    kind = "sheets"
    how = "type width x height, such as 1500 x 1000, several with commas between"
    as_list = True
    reckoned = True

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> tuple[tuple[float, float], ...]:
        parts = value if isinstance(value, list) else str(value).split(",")
        found = []
        for part in parts:
            sides = re.split(r"\s*[x×]\s*", str(part).strip())
            if len(sides) != 2:
                raise Refused(f"'{part}' is no size of a sheet; write width x height, such as 1500 x 1000.")
            width, height = (length_of(side, numbers) for side in sides)
            if not min(width, height) > 0 or max(width, height) > 1e6:
                raise Refused(f"A sheet of {width:g} × {height:g} mm cannot be; change its size.")
            found.append((width, height))
        return tuple(found)


def sheets(default: str, hint: str) -> Any:
    return stands_in(Sheets(default=default, hint=hint))
