"""Faces and edges of a form, by their numbers."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from ..errors import Refused
from ..record import record
from .parameter import Parameter, stands_in

if TYPE_CHECKING:
    from ..job.route import Job, Row

MOST = 100_000


@record
class Faces(Parameter):
    """Numbers of faces, or all of them."""

    kind = "faces"
    what = "face"
    how = "click, then pick faces on the form, or type all or 1, 4"
    picked = "faces"
    as_list = as_number = True

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> str | tuple[int, ...]:
        return picked_faces(value)

    def reads(self, job: Job, row: Row) -> str:
        return faces_words(str(self.written(row)))


@record
class Edges(Parameter):
    """Numbers of edges, or none."""

    kind = "edges"
    asks_for = "edges; click them on the form"
    what = "edge"
    how = "click, then click edges on the form, or type their numbers"
    picked = "edges"
    as_list = as_number = True

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> tuple[int, ...]:
        return picked_edges(value)

    def reads(self, job: Job, row: Row) -> str:
        text = str(self.written(row)).strip()
        return f"{'edge' if text.isdigit() else 'edges'} {text}" if text else self.words


@record
class SomeFaces(Faces):
    """Numbers of faces, or none."""

    kind = "some_faces"
    asks_for = "a face; click it on the form"
    how = "click, then pick faces on the form, or type their numbers"

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> tuple[int, ...]:
        return picked_edges(value)

    def reads(self, job: Job, row: Row) -> str:
        text = str(self.written(row)).strip()
        return faces_words(text) if text else self.words


@record
class Some(Parameter):
    """Numbers of some of what the source ``of`` gives, or none named."""

    of: str = ""
    kind = "some"
    how = "click, then type their numbers, such as 1, 4"
    as_list = as_number = True

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> tuple[int, ...]:
        return picked_edges(value)


def faces(hint: str) -> Any:
    return stands_in(Faces(default="all", hint=hint))


def some_faces(words: str, hint: str) -> Any:
    """Numbers of faces, picked on the form; empty reads as ``words``."""
    return stands_in(SomeFaces(hint=hint, words=words))


def needed_faces(words: str, hint: str) -> Any:
    """Numbers of faces, for which the row waits; until then they read as ``words``."""
    return stands_in(SomeFaces(hint=hint, words=words, needed=True))


def edges(words: str, hint: str) -> Any:
    """Numbers of edges, picked on the form; empty reads as ``words``."""
    return stands_in(Edges(hint=hint, words=words))


def needed_edges(words: str, hint: str) -> Any:
    """Numbers of edges, for which the row waits; until then they read as ``words``."""
    return stands_in(Edges(hint=hint, words=words, needed=True))


def some_of(of: str, words: str, hint: str) -> Any:
    """Numbers of some of what the source ``of`` gives; empty reads as ``words``."""
    return stands_in(Some(of=of, hint=hint, words=words))


def faces_words(written: str) -> str:
    """ "all faces", "face 1", "faces 1, 4"."""
    text = written.strip()
    if text.lower() == "all":
        return "all faces"
    return f"face {text}" if text.isdigit() else f"faces {text}"


def picked_faces(value: Any) -> str | tuple[int, ...]:
    """ "all", or the numbers of "1, 4" or "1-3". Raises Refused for anything else."""
    text = str(value).strip().lower()
    if text == "all":
        return "all"
    try:
        numbers = _numbers_in(text)
    except ValueError:
        raise Refused(f"'{value}' names no faces; write all, or numbers such as 1, 4.") from None
    if not numbers:
        raise Refused("No face is picked; pick at least one, or write all.")
    return numbers


def picked_edges(value: Any) -> tuple[int, ...]:
    """The numbers of "1, 4" or "1-3", or none. Raises Refused for anything else."""
    if not str(value).strip():
        return ()
    try:
        return _numbers_in(str(value))
    except ValueError:
        raise Refused(f"'{value}' is no list of numbers; write some such as 1, 4, or leave it empty.") from None


def _numbers_in(text: str) -> tuple[int, ...]:
    """The numbers of "1, 4" or "1-3"; none where there are far too many. Raises ValueError."""
    numbers: list[int] = []
    for part in text.replace(";", ",").split(","):
        first, _, last = part.strip().partition("-")
        numbers.extend(range(int(first), min(int(last or first), int(first) + MOST) + 1))
    return tuple(sorted(set(numbers))) if len(numbers) <= MOST else ()
