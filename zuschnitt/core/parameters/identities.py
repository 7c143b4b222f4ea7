"""What is known of picked faces and edges from when they were picked, by the name of the pick."""

from __future__ import annotations

from typing import Any

from ..record import record
from .parameter import Checks, Parameter, stands_in


@record
class Identities(Parameter):
    """It is no part of the sentence."""

    kind = "identities"

    def require(self, check: Checks, value: Any, where: str) -> None:
        """Nothing, or for each pick kind, size and middle by number, or face and shares by a point's coordinates."""
        if value in ("", None):
            return
        for pick, mark in check.object(value, where).items():
            if mark == "":
                continue
            known = check.object(mark, f"{where}.{pick}")
            for name, place in check.object(known.get("at", {}), f"{where}.{pick}.at").items():
                if not isinstance(place, list) or len(place) != 3 or not all(map(_is_number, place)) or place[0] < 1:
                    check.refuse(f"{where}.{pick}.at.{name}", "is not a face and its shares")
            likes = known.get("like", {})
            for number, like in check.object(likes, f"{where}.{pick}.like").items():
                good = isinstance(like, list) and len(like) == 3 and isinstance(like[0], str) and _is_number(like[1])
                if not good or not isinstance(like[2], list) or len(like[2]) != 3 or not all(map(_is_number, like[2])):
                    check.refuse(f"{where}.{pick}.like.{number}", "is not a kind, a size and a middle")


def identities() -> Any:
    """What faces and edges were like when they were picked."""
    return stands_in(Identities(hint="what faces and edges were like when they were picked"))


def _is_number(value: Any) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool)
