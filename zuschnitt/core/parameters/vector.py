"""Points and directions in space: numbers or expressions with commas between."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from ..errors import Refused
from ..expressions import length_of
from ..record import record
from ..units import kept, typed
from ..wording import counted
from .number import LARGEST
from .parameter import Parameter, stands_in

if TYPE_CHECKING:
    from ..job.route import Job, Row


@record
class Vector(Parameter):
    """Three numbers, or nothing."""

    kind = "vector"
    reckoned = True
    how = "click, then click on the form, or type x, y, z"
    as_list = True

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> tuple[float, float, float] | None:
        return three(value, numbers)


@record
class Point(Vector):
    """A point of the form."""

    picked = "point"

    def typed(self, job: Job, row: Row) -> str:
        return in_field(self.written(row), job.unit)

    def kept(self, job: Job, text: str) -> str:
        return from_field(text, job.unit)

    def reads(self, job: Job, row: Row) -> str:
        return with_unit(self.typed(job, row), job.unit) or self.words


@record
class Direction(Vector):
    """A direction in space."""

    picked = "direction"


@record
class Points(Parameter):
    """Points with semicolons between."""

    kind = "points"
    asks_for = "points; click them on the form, or type x, y, z; x, y, z"
    reckoned = True
    how = "click, then click points on the form, or type x, y, z; x, y, z"
    picked = "points"
    as_list = True

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> tuple[tuple[float, float, float] | None, ...]:
        return tuple(three(part, numbers) for part in self.parts(value))

    @staticmethod
    def parts(value: Any) -> list[str]:
        """The text of each point."""
        return [part.strip() for part in str(value).split(";") if part.strip()]

    def typed(self, job: Job, row: Row) -> str:
        return "; ".join(in_field(part, job.unit) for part in self.parts(self.written(row)))

    def kept(self, job: Job, text: str) -> str:
        return ";".join(from_field(each, job.unit) for each in text.split(";"))

    def reads(self, job: Job, row: Row) -> str:
        count = len(self.parts(self.written(row)))
        return counted(count, "point") if count else self.words


def point(words: str, hint: str) -> Any:
    """Three numbers or expressions with commas between; empty means what ``words`` say."""
    return stands_in(Point(words=words, hint=hint))


def direction(words: str, hint: str) -> Any:
    """Three numbers or expressions with commas between; empty means what ``words`` say."""
    return stands_in(Direction(words=words, hint=hint))


def points(words: str, hint: str) -> Any:
    """Points of the form with semicolons between, picked by clicks; until then they read as ``words``."""
    return stands_in(Points(hint=hint, words=words, needed=True))


def optional_points(words: str, hint: str) -> Any:
    """Points of the form with semicolons between, picked by clicks; empty means what ``words`` say."""
    return stands_in(Points(hint=hint, words=words))


def three(value: Any, numbers: Mapping[str, float]) -> tuple[float, float, float] | None:
    """Three numbers, or None for an empty text. Raises Refused."""
    if not str(value).strip():
        return None
    parts = split(str(value)) if isinstance(value, str) else list(value)
    if len(parts) != 3:
        raise Refused(f"'{value}' must be three numbers with commas between, such as 0, 120, 40.")
    x, y, z = (length_of(part, numbers) for part in parts)
    if max(abs(x), abs(y), abs(z)) > LARGEST:
        raise Refused(f"'{value}' has a number that is far too large; at most {LARGEST:g}.")
    return x, y, z


def in_field(value: Any, unit: str) -> str:
    """Lengths with commas between as they stand in a field that is in ``unit``."""
    if unit == "mm" and isinstance(value, str):
        return value
    parts = split(value) if isinstance(value, str) else [str(part) for part in value]
    return ", ".join(typed(part.strip(), unit) for part in parts)


def from_field(text: str, unit: str) -> str:
    """What was typed in such a field, as a row keeps it."""
    return text if unit == "mm" else ", ".join(kept(part, unit) for part in split(text))


def with_unit(text: str, unit: str) -> str:
    """What such a field holds, as it reads: in mm bare."""
    text = text.strip()
    return f"{text} {unit}" if text and unit != "mm" else text


def split(text: str) -> list[str]:
    """Splits at commas outside brackets."""
    parts, depth = [""], 0
    for letter in text:
        depth += (letter == "(") - (letter == ")")
        if letter == "," and depth == 0:
            parts.append("")
        else:
            parts[-1] += letter
    return parts
