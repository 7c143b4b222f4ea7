"""A rule: arithmetic that is worked out again for each of several things, with values of its own."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ..expressions import length_of
from ..record import record
from .parameter import Parameter, stands_in


@record
class Worked:
    """A rule's ``text``, and the named values of the job that it may use."""

    text: str
    values: tuple[tuple[str, float], ...]

    def value(self, own: Mapping[str, float]) -> float:
        """What it gives with its own values. Raises Refused where it gives nothing."""
        return length_of(self.text, {**dict(self.values), **own})


@record
class Rule(Parameter):
    """Arithmetic with the values ``own`` beside the named ones of the job; or nothing."""

    own: tuple[str, ...] = ()
    kind = "rule"
    reckoned = True
    how = "type arithmetic"

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> Worked | None:
        text = str(value or "").strip()
        if not text:
            return None
        rule = Worked(text, tuple((name, number) for name, number in numbers.items() if name in text))
        rule.value(dict.fromkeys(self.own, 1.0))  # what cannot be worked out is said at once
        return rule


def rule(words: str, hint: str, *own: str) -> Any:
    """Arithmetic for each of several things; none of it reads as ``words``."""
    return stands_in(Rule(words=words, hint=hint, own=own))
