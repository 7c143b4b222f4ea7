"""Where parts lie on sheets by hand, each in a few words: which part, on which sheet, where, how turned."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING, Any

from ..errors import Refused
from ..expressions import length_of, value_of
from ..nesting.laid_part import LaidPart
from ..record import record
from ..units import kept, with_its_unit
from .parameter import Parameter, stands_in, texts

if TYPE_CHECKING:
    from ..job.route import Job, Row


@record
class LaidParts(Parameter):
    """NAME[*COPY]:SHEET:X:Y:TURN, with semicolons between several; or none."""

    kind = "laid parts"
    reckoned = True
    how = "drag parts on the blank, or type part*copy:sheet:x:y:turn, such as lid*2:1:120:340:90"
    as_list = True

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> tuple[LaidPart, ...]:
        return tuple(_laid(text, numbers) for text in texts(value, ";"))

    def reads(self, job: Job, row: Row) -> str:
        count = len(texts(self.written(row), ";"))
        return self.words if not count else "1 part" if count == 1 else f"{count} parts"

    def typed(self, job: Job, row: Row) -> str:
        written = texts(self.written(row), ";")
        return "; ".join(_with_lengths(text, lambda it: with_its_unit(it, job.unit)) for text in written)

    def kept(self, job: Job, text: str) -> str:
        if job.unit == "mm":
            return text
        return "; ".join(_with_lengths(part, lambda it: kept(it, job.unit)) for part in texts(text, ";"))


def put(value: Any, part: LaidPart) -> str:
    """``value`` with one more part laid by hand, which takes the place of the same one."""
    others = [text for text in texts(value, ";") if _which(text) != (part.name, part.copy)]
    return "; ".join([*others, part.written()])


def _which(text: str) -> tuple[str, int]:
    name, star, copy = text.strip().rsplit(":", 4)[0].rpartition("*")
    return (name, int(copy)) if star and copy.isdigit() else (text.strip().rsplit(":", 4)[0], 1)


def _with_lengths(text: str, change: Callable[[str], str]) -> str:
    """A part as it is written, x and y changed; what is none is left for ``resolved`` to refuse."""
    fields = text.strip().rsplit(":", 4)
    if len(fields) == 5:
        fields[2:4] = (change(field.strip()) for field in fields[2:4])
    return ":".join(fields)


def _laid(text: str, numbers: Mapping[str, float]) -> LaidPart:
    fields: Sequence[str] = [part.strip() for part in text.strip().rsplit(":", 4)]
    if len(fields) != 5 or not fields[0] or not fields[1].isdigit() or fields[1] == "0":
        raise Refused(f"'{text.strip()}' must be part:sheet:x:y:turn, such as lid*2:1:120:340:90; change it.")
    name, copy = _which(text)
    x, y = (length_of(each, numbers) for each in fields[2:4])
    return LaidPart(name, copy, int(fields[1]), (x, y), value_of(fields[4], numbers))


def laid_parts(words: str, hint: str) -> Any:
    """Parts laid by hand; none of them reads as ``words``."""
    return stands_in(LaidParts(words=words, hint=hint))
