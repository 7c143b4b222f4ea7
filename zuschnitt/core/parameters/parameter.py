"""What all values of an operation's sentence have: how one is written, checked and worded, and what a task gets."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import field
from typing import TYPE_CHECKING, Any, ClassVar, Protocol

from ..errors import Lacking
from ..record import record

if TYPE_CHECKING:
    from ..job.route import Job, Row


@record
class ResultOf:
    """Stands in a task for the result of a ``kind`` among those that are kept under ``key``."""

    key: str
    kind: str = ""

    @classmethod
    def row(cls, taken: Row, kinds: tuple[str, ...], keys: Mapping[str, str]) -> ResultOf:
        """The result of one of the ``kinds`` that a row gives."""
        return cls(keys[taken.id], next((kind for kind in taken.gives if kind in kinds), ""))


@record
class FileOf:
    """Stands in a task for a file of the job."""

    name: str
    sha256: str


class Checks(Protocol):
    """Refuses a field of a job file by its place."""

    def refuse(self, where: str, why: str) -> None: ...
    def text(self, value: Any, where: str, numbers: bool = False) -> str: ...
    def object(self, value: Any, where: str) -> dict[str, Any]: ...


def texts(value: Any, between: str) -> list[str]:
    """The parts of a value that is a list, or a text with ``between`` between its parts; empty ones are left out."""
    parts = value if isinstance(value, list) else str(value).split(between)
    return [text for part in parts if (text := str(part).strip())]


@record
class Parameter:
    """One value. ``words`` is how an empty one reads; ``hint`` says what goes in; ``fresh`` is what a row that is
    added by hand begins with, where that is not the default; a row waits for one that is ``needed``.

    ``kind`` names the kind in the page on the job file; ``how`` says how it is edited. A value is edited as text, or
    chosen from ``options`` where it is ``chosen``; ``picked`` is what a click on the form gives: faces, edges, points
    or vector. In a job file it may be a list where it is ``as_list``, a number where it is ``as_number``.
    """

    name: str = ""
    default: Any = ""
    hint: str = ""
    words: str = ""
    fresh: Any = None
    needed: bool = False
    kind: ClassVar[str] = ""
    how: ClassVar[str] = "click to choose"
    chosen: ClassVar[bool] = False
    picked: ClassVar[str] = ""
    as_list: ClassVar[bool] = False
    as_number: ClassVar[bool] = False
    asks_for: ClassVar[str] = ""
    """What a row that lacks it waits for, and how that is given."""
    follows: ClassVar[bool] = False
    """Whether nobody gives it a value, since it follows from another one."""
    reckoned: ClassVar[bool] = False
    """Whether named values can stand in it."""

    def written(self, row: Row) -> Any:
        """The value as it is written in a row."""
        return row.written(self.name, self.default)

    listed: ClassVar[bool] = False
    """Whether it is a list that the row shows line by line, and edits there."""

    def part(self, value: Any, path: str, default: Any) -> Any:
        """A part of a value that has parts, by its ``path``: what follows the first dot of a name."""
        return default

    def with_part(self, value: Any, path: str, new: Any) -> Any:
        """The value with that part changed."""
        raise NotImplementedError

    def parameter_of(self, value: Any, path: str) -> Parameter:
        """What that part is."""
        raise NotImplementedError

    @property
    def short_hint(self) -> str:
        """Its hint without what explains it further."""
        return re.split("[,:;]", self.hint)[0]

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> Any:
        """What an operation gets for a value as written. Raises Refused where it is no good."""
        return value

    def check(self, job: Job, row: Row | None, title: str, value: Any) -> None:
        """Raises Refused where the value is no good for a row, whose operation's title is ``title``."""
        self.resolved(value, job.numbers)

    def taken(self, job: Job, row: Row) -> tuple[Row, ...]:
        """The rows whose results it takes."""
        return ()

    def in_task(self, job: Job, row: Row, title: str, keys: Mapping[str, str]) -> Any:
        """What stands for it in the row's task; ``keys`` are those of the rows above. Raises Refused."""
        if self.asks_for and self.lacks(row):
            raise Lacking(f"{title} waits for {self.asks_for}.")
        return self.resolved(self.written(row), job.numbers)

    def reads(self, job: Job, row: Row) -> str:
        """How the value reads in the sentence."""
        return str(self.written(row)).strip() or self.words

    def options(self, job: Job, row: Row) -> list[tuple[str, str]]:
        """Values to choose from, and how they read."""
        return []

    def typed(self, job: Job, row: Row) -> str:
        """The value as it stands in a field where it is edited: lengths in the job's unit."""
        return str(self.written(row))

    def kept(self, job: Job, text: str) -> str:
        """What was typed in such a field, as the row keeps it."""
        return text

    def plain(self, job: Job, row: Row) -> float | None:
        """The number that is written or results; None where it is none."""
        return None

    def lacks(self, row: Row) -> bool:
        """Whether the row waits for it."""
        return self.needed and not str(self.written(row)).strip()

    def require(self, check: Checks, value: Any, where: str) -> None:
        """Refuses a value that no job file may hold."""
        if isinstance(value, list) and self.as_list:
            for item in value:
                check.text(item, where, numbers=True)
        else:
            check.text(value, where, numbers=self.as_number)


def stands_in(parameter: Parameter) -> Any:
    """The field of an operation that is this parameter."""
    return field(default=parameter.default, metadata={"parameter": parameter})
