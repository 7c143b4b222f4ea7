"""What the data of this program are made with: frozen dataclasses that take little time to be imported.

Most of the time that a dataclass takes when its file is imported goes into compiling functions of its own. Those for
comparing, hashing and printing are the same for all here: a window that opens imports some 240 of them.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, fields
from operator import attrgetter
from typing import Any, TypeVar, dataclass_transform

T = TypeVar("T", bound=type)


@dataclass_transform(frozen_default=True, field_specifiers=(field,))
def record(cls: T) -> T:
    """A frozen dataclass; what its class says itself of comparing, hashing or printing holds."""
    own = vars(cls)
    cls.__doc__ = cls.__doc__ or cls.__name__  # or its signature would be written out
    dataclass(frozen=True, eq=False, repr=False)(cls)
    compared = tuple(f.name for f in fields(cls) if f.compare)
    shared = {"__eq__": _equal, "__repr__": _printed, "_compared": staticmethod(_values(compared))}
    for name, value in shared.items():
        if name not in own:
            setattr(cls, name, value)
    if own.get("__hash__") is None:  # a class that says when it is equal has lost the one it inherited
        cls.__hash__ = _hash  # type: ignore[method-assign, assignment]
    return cls


def _values(names: tuple[str, ...]) -> Callable[[Any], tuple]:
    """What takes the values of fields out of an object, always as a tuple."""
    if len(names) > 1:
        return attrgetter(*names)
    return lambda whole: tuple(getattr(whole, name) for name in names)


def _equal(self: Any, other: Any) -> bool:
    if type(self) is not type(other):
        return NotImplemented
    return self._compared(self) == self._compared(other)


def _hash(self: Any) -> int:
    return hash(self._compared(self))


def _printed(self: Any) -> str:
    said = ", ".join(f"{f.name}={getattr(self, f.name)!r}" for f in fields(self) if f.repr)
    return f"{type(self).__qualname__}({said})"
