"""Frozen dataclasses with functions they share: they do what a dataclass's own would."""

from __future__ import annotations

import pickle
from dataclasses import FrozenInstanceError, dataclass, field, fields, replace

import numpy as np
import pytest

from zuschnitt.core.record import record


@record
class Ours:
    first: float
    many: tuple = ()
    secret: str = field(default="", repr=False)
    place: str = field(default="", compare=False)


@dataclass(frozen=True)
class Standard:
    first: float
    many: tuple = ()
    secret: str = field(default="", repr=False)
    place: str = field(default="", compare=False)


@record
class Wider(Ours):
    last: int = 0


@record
class Alone:
    only: object


@record
class Empty:
    pass


@record
class Approximate:  # noqa: PLW1641 - what it is hashed by is what is tested
    length: float

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Approximate) and abs(self.length - other.length) < 1


VALUES = [(1.0,), (1.0, (2, 3)), (1.0, (2, 3), "a"), (1.0, (2, 3), "a", "here"), (1.0, (2, 3), "a", "there"), (2.0,)]


def test_equal_hashed_and_printed_as_a_standard_dataclass():
    for one in VALUES:
        assert repr(Ours(*one)) == repr(Standard(*one)).replace("Standard", "Ours")
        for other in VALUES:
            assert (Ours(*one) == Ours(*other)) is (Standard(*one) == Standard(*other))
            assert (hash(Ours(*one)) == hash(Ours(*other))) is (hash(Standard(*one)) == hash(Standard(*other)))


def test_other_classes_are_never_equal():
    assert Ours(1.0) != Wider(1.0) and Ours(1.0) != Standard(1.0) and Ours(1.0) != (1.0, (), "")
    assert Wider(1.0, last=1) == Wider(1.0, last=1) != Wider(1.0, last=2)
    assert Empty() == Empty() and hash(Empty()) == hash(Empty()) and Empty() != Alone(None)


def test_an_array_is_itself_and_not_compared_by_its_entries():
    points = np.zeros((3, 2))
    assert Alone(points) == Alone(points)
    with pytest.raises(ValueError, match="ambiguous"):
        bool(Alone(points) == Alone(points.copy()))


@record
class Checked:
    low: float
    high: float
    seen: list = field(default_factory=list)

    def __post_init__(self) -> None:
        if self.low > self.high:
            raise ValueError("upside down")


def test_defaults_are_made_anew_and_what_is_made_is_checked():
    one, other = Checked(1.0, 2.0), Checked(low=1.0, high=2.0)
    one.seen.append(5)
    assert other.seen == [] and Checked(1.0, 2.0, [5]) == one
    with pytest.raises(ValueError, match="upside down"):
        Checked(2.0, 1.0)
    with pytest.raises(TypeError, match="missing 1 required positional argument: 'high'"):
        Checked(1.0)  # type: ignore[call-arg]
    with pytest.raises(TypeError, match="unexpected keyword argument 'middle'"):
        Checked(1.0, 2.0, middle=1.5)  # type: ignore[call-arg]
    with pytest.raises(SyntaxError, match="non-default argument follows default"):

        @record
        class _Wrong:
            first: int = 0
            second: int  # type: ignore[misc]


def test_what_a_class_says_of_equality_holds():
    assert Approximate(1.0) == Approximate(1.5) != Approximate(3.0)
    assert hash(Approximate(1.0)) == hash((1.0,))


def test_frozen_replaced_and_sent_to_another_process():
    whole = Wider(1.0, (2,), "a", "here", 5)
    with pytest.raises(FrozenInstanceError):
        whole.first = 2.0  # type: ignore[misc]
    with pytest.raises(FrozenInstanceError):
        del whole.first
    assert replace(whole, last=6) == Wider(1.0, (2,), "a", "here", 6)
    assert pickle.loads(pickle.dumps(whole)) == whole
    assert [f.name for f in fields(whole)] == ["first", "many", "secret", "place", "last"]
