"""Values that keep what they once worked out, but do not carry it to another process; and work put off."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import fields
from threading import Lock
from typing import Any, Generic, TypeVar, overload

T = TypeVar("T")


class Lazy:
    """For frozen dataclasses with cached properties: only the fields are pickled."""

    def __getstate__(self) -> dict:
        return {f.name: self.__dict__[f.name] for f in fields(self)}  # type: ignore[arg-type]


class Later(Generic[T]):
    """``work`` on what is ``given``, itself put off perhaps, done when its ``value`` is first asked for.

    To another process goes the value where there is one already, else the work, which is therefore a function of a
    module. Several threads may ask.
    """

    def __init__(self, work: Callable[..., T], *given: Any) -> None:
        self._work: tuple[Callable[..., T], tuple[Any, ...]] | None = (work, given)
        self._lock = Lock()

    @property
    def value(self) -> T:
        with self._lock:
            if self._work is not None:
                work, given = self._work
                self._value = work(*(each.value if isinstance(each, Later) else each for each in given))
                self._work = None
        return self._value

    def __getstate__(self) -> dict:
        with self._lock:
            return {name: each for name, each in self.__dict__.items() if name != "_lock"}

    def __setstate__(self, state: dict) -> None:
        self.__dict__.update(state)
        self._lock = Lock()


class LateSequence(Sequence[T]):
    """So many values, of which ``work`` makes all when one is first asked for; to another process go the values."""

    def __init__(self, count: int, work: Callable[..., Sequence[T]], *given: Any) -> None:
        self._count, self._made = count, Later(work, *given)

    def __len__(self) -> int:
        return self._count

    @overload
    def __getitem__(self, which: int) -> T: ...
    @overload
    def __getitem__(self, which: slice) -> Sequence[T]: ...
    def __getitem__(self, which: int | slice) -> T | Sequence[T]:
        return self._made.value[which]

    def __iter__(self) -> Iterator[T]:
        return iter(self._made.value)

    def __reduce__(self) -> tuple:
        return tuple, (tuple(self),)


def later(work: Callable[..., T], *given: Any) -> T:
    """Work put off, for a field that is ``late``: it reads as its value."""
    return Later(work, *given)  # type: ignore[return-value]


def late(*names: str) -> Callable[[type[T]], type[T]]:
    """For dataclasses of which the fields ``names`` may be given as work put off."""

    def with_late(kind: type[T]) -> type[T]:
        for name in names:
            setattr(kind, name, _Late(name))
        return kind

    return with_late


class _Late:
    def __init__(self, name: str) -> None:
        self._name = name

    def __get__(self, holder: object | None, kind: type) -> Any:
        if holder is None:
            return self
        held = holder.__dict__[self._name]
        return held.value if isinstance(held, Later) else held

    def __set__(self, holder: object, value: Any) -> None:
        holder.__dict__[self._name] = value


def untouched(holder: Any, **changes: Any) -> Any:
    """A dataclass with ``changes``; what is put off in its other fields stays so, as it does not with ``replace``."""
    return type(holder)(**{f.name: holder.__dict__[f.name] for f in fields(holder)} | changes)
