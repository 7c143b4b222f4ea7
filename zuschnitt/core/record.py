"""What the data of this program are made with: frozen dataclasses that take little time to be imported.

Most of the time that a dataclass takes when its file is imported goes into compiling functions of its own, up to six of
them. Here only ``__init__`` is; those for comparing, hashing, printing and refusing to be changed are the same for all.
A window that opens imports some 240 of such classes.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import MISSING, FrozenInstanceError, dataclass, field, fields
from operator import attrgetter
from typing import Any, TypeVar, dataclass_transform

T = TypeVar("T", bound=type)


@dataclass_transform(frozen_default=True, field_specifiers=(field,))
def record(cls: T) -> T:
    """A frozen dataclass; what its class says itself of comparing, hashing or printing holds."""
    own = vars(cls)
    cls.__doc__ = cls.__doc__ or cls.__name__  # or its signature would be written out
    dataclass(init=False, eq=False, repr=False)(cls)
    compared = tuple(f.name for f in fields(cls) if f.compare)
    shared = {
        "__eq__": _equal,
        "__repr__": _printed,
        "__setattr__": _refuse,
        "__delattr__": _refuse,
        "_compared": staticmethod(_values(compared)),
    }
    for name, value in shared.items():
        if name not in own:
            setattr(cls, name, value)
    if own.get("__hash__") is None:  # a class that says when it is equal has lost the one it inherited
        cls.__hash__ = _hash  # type: ignore[method-assign, assignment]
    cls.__init__ = _init_of(cls)  # type: ignore[misc]
    return cls


def _init_of(cls: Any) -> Callable[..., None]:
    """The function that sets all fields from its parameters; mutable defaults are made anew for each object."""
    known: dict[str, Any] = {"_set": object.__setattr__, "_made": MISSING}
    parameters, lines = ["self"], []
    for f in fields(cls):
        value = f.name
        if f.default_factory is not MISSING:
            known[f"_make_{f.name}"] = f.default_factory
            parameters.append(f"{f.name}=_made")
            value = f"_make_{f.name}() if {f.name} is _made else {f.name}"
        elif f.default is not MISSING:
            known[f"_default_{f.name}"] = f.default
            parameters.append(f"{f.name}=_default_{f.name}")
        else:
            parameters.append(f.name)
        lines.append(f"_set(self, {f.name!r}, {value})")
    if hasattr(cls, "__post_init__"):
        lines.append("self.__post_init__()")
    exec(f"def __init__({', '.join(parameters)}):\n " + "\n ".join(lines or ["pass"]), known)
    made = known["__init__"]
    made.__qualname__, made.__module__ = f"{cls.__qualname__}.__init__", cls.__module__
    return made


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


def _refuse(self: Any, name: str, value: object = None) -> None:
    raise FrozenInstanceError(f"{name} of {type(self).__qualname__} stays as it is")
