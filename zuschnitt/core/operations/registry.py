"""What an operation of the route card is: its parameters, its sentence, and its run.

An operation is a frozen dataclass in a file of its own, registered by ``@operation``. Its fields are
made by the functions below and carry all that the window, the command line and the job file need.
When it runs, its fields hold plain values: numbers for expressions, results for sources.
"""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, fields, replace
from functools import cache
from typing import Any, TypeVar

from ..errors import Refused

T = TypeVar("T", bound=type)

GROUPS = ("Get a form", "Develop", "Mark", "Carry back", "Cut out")
"""The list of operations, in the order in which the work is done."""

STAGES = ("form", "form>blank", "blank", "blank>form")
"""On which side an operation works, or from which side to which it carries."""


@dataclass(frozen=True)
class Parameter:
    """One value in an operation's sentence.

    ``kind`` is number, choice, source, sources, origin, faces, edges, memory, some, points, vector, material or file.
    ``words`` is how an empty value reads; ``hint`` says what goes in. ``low`` and ``high`` are the range of a number in
    ``unit``, ``choices`` the keys and wordings of a choice, ``accepts`` the kinds of result of a source or the
    endings of a file. ``of`` names the source whose rows ``sources`` gathers, of whose results ``some`` are taken, or
    whose ``origin`` is taken: nobody chooses that. A source that is ``optional`` may stay empty; one that is ``on``
    another source must have come from what that names.
    """

    kind: str
    name: str = ""
    default: Any = ""
    unit: str = ""
    low: float | None = None
    high: float | None = None
    above: float | None = None
    choices: Mapping[str, str] | None = None
    accepts: tuple[str, ...] = ()
    words: str = ""
    hint: str = ""
    of: str = ""
    optional: bool = False
    on: str = ""


def _made(parameter: Parameter):
    return field(default=parameter.default, metadata={"parameter": parameter})


def number(default: float | str, unit: str, hint: str, *, low=None, high=None, above=None, words=""):
    """A number or expression. ``above``: it must be greater; an empty default may stay empty."""
    return _made(
        Parameter("number", default=str(default), unit=unit, hint=hint, low=low, high=high, above=above, words=words)
    )


def choice(default: str, choices: Mapping[str, str], hint: str):
    return _made(Parameter("choice", default=default, choices=choices, hint=hint))


def source(*accepts: str, hint: str):
    """The result of an earlier row; empty means the nearest one above that fits."""
    return _made(Parameter("source", accepts=accepts, hint=hint, words="nothing yet"))


def optional_source(*accepts: str, words: str, hint: str, on: str = ""):
    """The result of an earlier row, or nothing, which then reads as ``words``; it must have come from ``on``."""
    return _made(Parameter("source", accepts=accepts, hint=hint, words=words, optional=True, on=on))


def origin(of: str, *accepts: str):
    """What the source ``of`` came from: the form of a blank, the blank of artwork. So no two can be mismatched."""
    return _made(Parameter("origin", accepts=accepts, of=of, hint=f"that which the {of} came from"))


def edges(words: str, hint: str):
    """Numbers of edges, picked on the form; empty reads as ``words``."""
    return _made(Parameter("edges", hint=hint, words=words))


def some_of(of: str, words: str, hint: str):
    """Numbers of some of what the source ``of`` gives; empty reads as ``words``."""
    return _made(Parameter("some", of=of, hint=hint, words=words))


def points(words: str, hint: str):
    """Points of the form with semicolons between, picked by clicks; empty reads as ``words``."""
    return _made(Parameter("points", hint=hint, words=words))


def sources(*accepts: str, of: str, hint: str):
    """The results of all earlier rows that fit and work on the same ``of``."""
    return _made(Parameter("sources", default="all", accepts=accepts, of=of, hint=hint, choices={
        "all": "all that is marked on it", "none": "nothing else"}))  # fmt: skip


def faces(hint: str):
    return _made(Parameter("faces", default="all", hint=hint))


def memory():
    """What is known of picked faces and edges from when they were picked, by the name of the pick.

    It is no part of the sentence.
    """
    return _made(Parameter("memory", hint="what faces and edges were like when they were picked"))


def vector(words: str, hint: str):
    """Three numbers or expressions with commas between; empty means what ``words`` say."""
    return _made(Parameter("vector", words=words, hint=hint))


def material(hint: str):
    """The name of a material of the table; empty means the job's own."""
    return _made(Parameter("material", words="the job's material", hint=hint))


def file(*endings: str, hint: str):
    """The name of an asset of the job."""
    return _made(Parameter("file", accepts=endings, hint=hint, words="no file yet"))


@dataclass(frozen=True)
class Figure:
    """One figure of a row: what it is, its text with the unit, and the side it belongs to."""

    label: str
    text: str
    side: str = ""


@dataclass(frozen=True)
class Outcome:
    """What a row gives: ``value`` of a ``kind`` (form, blank, artwork, wrapped, traced, drawing, pages,
    reliefs, compared)."""

    kind: str
    value: Any
    figures: tuple[Figure, ...] = ()
    messages: tuple[str, ...] = ()
    brief: str = ""


@dataclass(frozen=True)
class Clause:
    """A part of an operation's sentence that stands only where it says something: ``offer`` is how it is offered."""

    offer: str
    words: str


@dataclass(frozen=True)
class Entry:
    """An operation as it stands in the list."""

    key: str
    title: str
    stage: str
    group: str
    gives: str
    takes: str
    makes: str
    type: type
    parameters: tuple[Parameter, ...]
    clauses: tuple[Clause, ...] = ()

    def parameter(self, name: str) -> Parameter:
        for parameter in self.parameters:
            if parameter.name == name:
                return parameter
        known = ", ".join(p.name for p in self.parameters)
        raise Refused(f"{self.title} has no value '{name}'; it has {known}.")

    def defaults(self) -> dict[str, Any]:
        return {parameter.name: parameter.default for parameter in self.parameters if parameter.kind != "origin"}


_entries: dict[str, Entry] = {}


def operation(key: str, *, title: str, stage: str, group: str, gives: str, takes: str, makes: str) -> Callable[[T], T]:
    """Registers an operation. ``takes`` and ``makes`` say in words what goes in and what comes out."""

    def register(cls: T) -> T:
        if key in _entries:
            raise ValueError(f"two operations are called {key}")
        if stage not in STAGES or group not in GROUPS:
            raise ValueError(f"{key} names an unknown stage or group")
        parameters = tuple(
            replace(f.metadata["parameter"], name=f.name) for f in fields(cls) if "parameter" in f.metadata
        )
        clauses = tuple(Clause(offer, words) for offer, words in getattr(cls, "clauses", ()))
        _entries[key] = Entry(key, title, stage, group, gives, takes, makes, cls, parameters, clauses)
        return cls

    return register


@cache
def entries() -> Mapping[str, Entry]:
    """All operations by key, in the order of the groups; each file of this package registers its own."""
    package = importlib.import_module(__package__)
    for module in pkgutil.iter_modules(package.__path__):
        importlib.import_module(f"{__package__}.{module.name}")
    return dict(sorted(_entries.items(), key=lambda item: (GROUPS.index(item[1].group), item[1].title)))


def entry(key: str) -> Entry:
    """The operation of that key. Raises Refused where this version does not know it."""
    found = entries().get(key)
    if found is None:
        raise Refused(f"This version does not know the operation '{key}'; open the job with a newer one.")
    return found
