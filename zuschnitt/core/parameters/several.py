"""Some of a few names, with commas between."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ..errors import Refused
from ..record import record
from .parameter import Parameter, stands_in, texts


@record
class Several(Parameter):
    """Some of ``names``, or none."""

    names: tuple[str, ...] = ()
    kind = "several"
    how = "type names with commas between"
    as_list = True

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> tuple[str, ...]:
        found = tuple(dict.fromkeys(text.lower() for text in texts(value, ",")))
        unknown = [name for name in found if name not in self.names]
        if unknown:
            raise Refused(f"There is no {unknown[0]!r} here; name some of {', '.join(self.names)}.")
        return found


def several(default: str, names: tuple[str, ...], words: str, hint: str) -> Any:
    """Some of ``names``; none of them reads as ``words``."""
    return stands_in(Several(default=default, names=names, words=words, hint=hint))
