"""Work that is put off: done once, when it is asked for, and carried on to other processes."""

from __future__ import annotations

import pickle
from dataclasses import dataclass, replace

from zuschnitt.core.lazy import Later, late, later, untouched

DONE: list[int] = []


def doubled(value: int) -> int:
    DONE.append(value)
    return 2 * value


@late("value")
@dataclass(frozen=True)
class Held:
    name: str
    value: int


def test_it_is_done_when_it_is_first_read_and_only_once():
    DONE.clear()
    held = Held("one", later(doubled, 3))
    other = untouched(held, name="two")
    assert not DONE and other.name == "two"
    assert (held.value, other.value, held.value) == (6, 6, 6) and DONE == [3]
    assert replace(held, name="three").value == 6


def test_what_is_given_may_be_put_off_itself():
    DONE.clear()
    held = Held("one", later(doubled, Later(doubled, 5)))
    assert not DONE
    assert held.value == 20 and DONE == [5, 10]


def test_the_work_travels_until_it_is_done_then_its_value():
    DONE.clear()
    held = Held("one", later(doubled, 4))
    sent = pickle.loads(pickle.dumps(held))
    assert not DONE
    assert (held.value, sent.value) == (8, 8) and DONE == [4, 4]
    assert pickle.loads(pickle.dumps(held)).value == 8 and DONE == [4, 4]
