"""What an operation of the route card is: its parameters, its sentence, and its run.

An operation is a class in a file of its own, which ``@operation`` makes a frozen dataclass and registers. Its fields
are made by the functions of ``core/parameters`` and carry all that the window, the command line and the job file
need. When it runs, its fields hold plain values: numbers for expressions, results for sources.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import fields, replace
from functools import cache
from typing import Any, TypeVar, dataclass_transform

from ..by_file import import_all, import_file
from ..errors import Refused
from ..parameters.file import File
from ..parameters.parameter import Parameter
from ..parameters.source import Source
from ..record import record

T = TypeVar("T", bound=type)

GROUPS = ("Get a form", "Develop", "Mark", "Carry back", "Bodies", "Sheet parts", "Ribs", "Cut out")
"""The list of operations, in the order in which the work is done."""

STAGES = ("form", "form>blank", "blank", "blank>form")
"""On which side an operation works, or from which side to which it carries."""


@record
class Clause:
    """A part of an operation's sentence that stands only where it says something: ``offer`` is how it is offered."""

    offer: str
    words: str


@record
class Entry:
    """An operation as it stands in the list."""

    key: str
    title: str
    stage: str
    group: str
    gives: tuple[str, ...]
    takes: str
    makes: str
    type: type
    parameters: tuple[Parameter, ...]
    clauses: tuple[Clause, ...] = ()
    begins: str = ""

    def parameter(self, name: str) -> Parameter:
        for parameter in self.parameters:
            if parameter.name == name:
                return parameter
        known = ", ".join(p.name for p in self.parameters)
        raise Refused(f"{self.title} has no value '{name}'; it has {known}.")

    @property
    def sentence(self) -> str:
        """Its words, with the names of values in braces."""
        return str(getattr(self.type, "sentence"))  # noqa: B009  # an operation is a plain class

    @property
    def placed(self) -> bool:
        """Whether numbers say where what it gives lies on a blank."""
        return {"x", "y", "turn", "scale"} <= {parameter.name for parameter in self.parameters}

    @property
    def glimpsed(self) -> bool:
        """Whether what it gives can be seen roughly while a value moves."""
        return hasattr(self.type, "glimpse")

    @property
    def endings(self) -> tuple[str, ...]:
        """Those of the files that it takes."""
        return next((p.endings for p in self.parameters if isinstance(p, File)), ())

    def source_of(self, kind: str) -> Source | None:
        """The first source that takes results of that kind."""
        return next((p for p in self.parameters if isinstance(p, Source) and kind in p.accepts), None)

    def fresh(self) -> dict[str, Any]:
        """What a row that is added by hand begins with besides the defaults."""
        return {parameter.name: parameter.fresh for parameter in self.parameters if parameter.fresh is not None}

    def defaults(self) -> dict[str, Any]:
        return {parameter.name: parameter.default for parameter in self.parameters if not parameter.follows}


_entries: dict[str, Entry] = {}


@dataclass_transform(frozen_default=True)
def operation(
    key: str,
    *,
    title: str,
    stage: str,
    group: str,
    gives: str | tuple[str, ...],
    takes: str,
    makes: str,
    begins: str = "",
) -> Callable[[T], T]:
    """Registers an operation that ``gives`` one kind of result or several.

    ``takes`` and ``makes`` say in words what goes in and what comes out, ``begins`` how it is offered on an empty card.
    """

    def register(cls: T) -> T:
        if key in _entries:
            raise ValueError(f"two operations are called {key}")
        if stage not in STAGES or group not in GROUPS:
            raise ValueError(f"{key} names an unknown stage or group")
        record(cls)
        parameters = tuple(
            replace(f.metadata["parameter"], name=f.name) for f in fields(cls) if "parameter" in f.metadata
        )
        clauses = tuple(Clause(offer, words) for offer, words in getattr(cls, "clauses", ()))
        kinds = (gives,) if isinstance(gives, str) else gives
        _entries[key] = Entry(key, title, stage, group, kinds, takes, makes, cls, parameters, clauses, begins)
        return cls

    return register


@cache
def entries() -> Mapping[str, Entry]:
    """All operations by key, in the order of the groups; each file of this package registers its own."""
    import_all(__package__)
    return dict(sorted(_entries.items(), key=lambda item: (GROUPS.index(item[1].group), item[1].title)))


def known_entry(key: str) -> Entry | None:
    """The operation of that key, whose file has its name; None where this version does not know it."""
    if key not in _entries:
        import_file(__package__, key)
    return _entries.get(key)


def entry(key: str) -> Entry:
    """The operation of that key. Raises Refused where this version does not know it."""
    found = known_entry(key)
    if found is None:
        raise Refused(f"This version does not know the operation '{key}'; open the job with a newer one.")
    return found
