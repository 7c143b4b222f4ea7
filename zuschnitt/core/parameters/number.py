"""A number: typed as one, or as an expression of named values."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from ..errors import Refused
from ..expressions import length_of, value_of
from ..record import record
from ..units import kept, shown, typed
from .parameter import Parameter, stands_in

if TYPE_CHECKING:
    from ..job.route import Job, Row

LARGEST = 1e7
"""No number of a row is larger than this: in mm that are 10 km."""


@record
class Number(Parameter):
    """A number in ``unit`` from ``low`` to ``high``, and ``above`` that; it may be empty where its default is."""

    unit: str = ""
    low: float | None = None
    high: float | None = None
    above: float | None = None
    optional: bool = False
    kind = "number"
    reckoned = True
    how = "type a number or an expression; drag sideways or use the arrow keys to try"
    as_number = True

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> float | None:
        if str(value).strip() == "" and (self.optional or self.default == ""):
            return None
        result = length_of(value, numbers) if self.unit == "mm" else value_of(value, numbers)
        unit = f" {self.unit}" if self.unit else ""
        if abs(result) > LARGEST:
            raise Refused(f"{self.hint}: {result:g} is far too large; at most {LARGEST:g}.")
        if self.above is not None and result <= self.above:
            raise Refused(f"{self.hint}: {result:g} is too small; it must be above {self.above:g}{unit}.")
        if self.low is not None and result < self.low:
            raise Refused(f"{self.hint}: {result:g} is too small; at least {self.low:g}{unit}.")
        if self.high is not None and result > self.high:
            raise Refused(f"{self.hint}: {result:g} is too large; at most {self.high:g}{unit}.")
        return result

    def reads(self, job: Job, row: Row) -> str:
        text = str(self.written(row)).strip()
        if not text:
            return self.words
        number = self.plain(job, row)
        if self.unit == "mm" and number is not None and job.unit != "mm":
            own, value = typed(text, job.unit), f"{shown(number, job.unit)} {job.unit}"
            return value if own != text or value.startswith(f"{text} ") else f"{text} = {value}"
        unit = f"{'' if self.unit == '°' else ' '}{self.unit}".rstrip()
        return f"{text}{unit}" if number is None or is_plain(text) else f"{text} = {number:g}{unit}"

    def typed(self, job: Job, row: Row) -> str:
        text = str(self.written(row))
        return typed(text, job.unit) if self.unit == "mm" else text

    def kept(self, job: Job, text: str) -> str:
        return kept(text, job.unit) if self.unit == "mm" else text

    def plain(self, job: Job, row: Row) -> float | None:
        try:
            return self.resolved(self.written(row), job.numbers)
        except Refused:
            return None


def number(default: float | str, unit: str, hint: str, *, low=None, high=None, above=None, words="") -> Any:
    """A number or expression. ``above``: it must be greater; an empty default may stay empty."""
    return stands_in(Number(default=str(default), unit=unit, hint=hint, low=low, high=high, above=above, words=words))


def optional_number(
    default: float | str, unit: str, hint: str, *, low=None, high=None, above=None, words="", fresh: str | None = None
) -> Any:
    """A number or expression that may stay empty; ``fresh``: as a row that is added by hand begins."""
    made = Number(default=str(default), unit=unit, hint=hint, low=low, high=high, above=above, words=words)
    return stands_in(replace(made, optional=True, fresh=fresh))


def is_plain(text: str) -> bool:
    """Whether a number is written, and not an expression."""
    try:
        float(text)
    except ValueError:
        return False
    return True
