"""How far some of many are done, by their numbers: 2:0.5; 3:0."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ..errors import Refused
from ..expressions import value_of
from ..record import record
from .parameter import Parameter, stands_in, texts


@record
class Shares(Parameter):
    """NUMBER[, NUMBER…]:SHARE, with semicolons between several; or none. A share runs from 0 to 1."""

    kind = "shares"
    reckoned = True
    how = "type numbers and how far each is, from 0 to 1, such as 2:0.5; 3, 4:0"
    as_list = True

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> dict[int, float]:
        found: dict[int, float] = {}
        for part in texts(value, ";"):
            which, colon, share = part.partition(":")
            named = [each.strip() for each in which.split(",")]
            far = value_of(share, numbers) if colon and share.strip() else -1.0
            if not all(each.isdigit() for each in named) or not 0 <= far <= 1:
                raise Refused(f"'{part}' must be numbers and a share from 0 to 1, such as 2:0.5; change it.")
            found.update(dict.fromkeys(map(int, named), far))
        return found


def shares(words: str, hint: str) -> Any:
    """Shares of some by their numbers; none of them reads as ``words``."""
    return stands_in(Shares(words=words, hint=hint))
