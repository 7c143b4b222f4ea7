"""What a row gives: results, each of a kind, with figures, and what is to be said of them."""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Mapping, Sequence
from functools import cache
from types import MappingProxyType
from typing import Any, ClassVar

from ..errors import Remedy
from ..record import record
from ..wording import Fault, Note

NOTHING: Mapping[str, str] = MappingProxyType({})


@record
class Figure:
    """One figure of a row: what it is, its text with the unit, and the side it belongs to."""

    label: str
    text: str
    side: str = ""


@record
class Printing:
    """How a blank is printed: ``paper`` by its key, and what is ``shown`` below the lines."""

    paper: str = "a4"
    shown: str = "lines"


@record
class Result:
    """One thing that a row gives; ``value`` is what other operations take.

    ``writes`` says, by the endings of the files it can write, what is written; a file with an ending in ``first`` is
    rather written from this kind than from another. ``whole`` are the endings that are written where everything is.
    ``follows`` are the operations that often come next, with the words to offer them. ``played`` are the two ends
    between which it is looked at, without a change of its row. What is said of a ``plain`` kind is a note if it
    is no Fault, of another one a warning if it is no Note.
    """

    value: Any
    kind: ClassVar[str] = ""
    writes: ClassVar[Mapping[str, str]] = NOTHING
    first: ClassVar[tuple[str, ...]] = ()
    whole: ClassVar[tuple[str, ...]] = ()
    follows: ClassVar[tuple[tuple[str, str], ...]] = ()
    played: ClassVar[tuple[str, ...]] = ()
    plain: ClassVar[bool] = False

    def figures(self) -> tuple[Figure, ...]:
        return ()

    def brief(self) -> str:
        """One line on it."""
        return ""

    def content(self, ending: str, title: str, printing: Printing) -> bytes:
        """The file with that ending, one of ``writes``."""
        raise NotImplementedError

    @classmethod
    def together(cls, results: Sequence[Result], ending: str, title: str, printing: Printing) -> bytes:
        """The file that several rows' results of this kind give: that of the last."""
        return results[-1].content(ending, title, printing)

    def report(self) -> dict[str, Any]:
        """Its parts of a report: an object is that of the last row, lists of several rows are joined."""
        return {}


@record
class Outcome:
    """All that a row gives. The first of ``results`` is the main one; made with ``outcome``.

    ``remedies`` would help with what ``messages`` say, each by one click.
    """

    results: tuple[Result, ...]
    figures: tuple[Figure, ...] = ()
    messages: tuple[str, ...] = ()
    brief: str = ""
    remedies: tuple[Remedy, ...] = ()

    def result(self, kind: str) -> Result | None:
        return next((result for result in self.results if result.kind == kind), None)

    @property
    def value(self) -> Any:
        """That of the main result."""
        return self.results[0].value

    @property
    def warnings(self) -> tuple[str, ...]:
        """What is said that is more than a note."""
        return tuple(each for each in self.messages if not self._notes(each))

    @property
    def notes(self) -> tuple[str, ...]:
        """What else is said."""
        return tuple(each for each in self.messages if self._notes(each))

    def _notes(self, message: str) -> bool:
        return not isinstance(message, Fault) and (self.results[0].plain or isinstance(message, Note))

    def writer(self, ending: str) -> Result | None:
        """The result that writes a file with that ending."""
        return next((result for result in self.results if ending in result.writes), None)


def outcome(*results: Result, messages: Sequence[str] = (), more: Sequence[Figure] = (), brief: str = "") -> Outcome:
    """What a row gives, with ``more`` figures that only the operation knows, and another ``brief`` line."""
    figures = tuple(figure for result in results for figure in result.figures())
    said = brief or " · ".join(line for line in (result.brief() for result in results) if line)
    return Outcome(results, (*figures, *more), tuple(messages), said)


@cache
def kinds() -> Mapping[str, type[Result]]:
    """All kinds of result by their names; each file of this package has one or more."""
    package = importlib.import_module(__package__)
    found: dict[str, type[Result]] = {}
    for module in pkgutil.iter_modules(package.__path__):
        here = importlib.import_module(f"{__package__}.{module.name}")
        for each in vars(here).values():
            if isinstance(each, type) and issubclass(each, Result) and each.kind:
                found[each.kind] = each
    return found


def merged(parts: Sequence[Mapping[str, Any]]) -> dict[str, Any]:
    """The parts of several rows' reports as one."""
    whole: dict[str, Any] = {}
    for part in parts:
        for key, value in part.items():
            whole[key] = [*whole.get(key, []), *value] if isinstance(value, list) else value
    return whole
