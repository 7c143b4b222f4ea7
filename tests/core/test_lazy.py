"""Work that is put off: done once, when it is asked for, and carried on to other processes."""

from __future__ import annotations

import pickle
from dataclasses import dataclass, replace

from zuschnitt.core.lazy import Later, LateSequence, late, later, untouched

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


def tripled(values: list[int]) -> tuple[int, ...]:
    DONE.append(len(values))
    return tuple(3 * value for value in values)


def test_a_sequence_knows_its_length_before_it_is_made_and_travels_as_a_tuple():
    DONE.clear()
    late_one = LateSequence(2, tripled, [4, 5])
    assert len(late_one) == 2 and bool(late_one) and not LateSequence(0, tripled, []) and not DONE
    sent = pickle.loads(pickle.dumps({"meshes": late_one}))["meshes"]
    assert sent == (12, 15) and isinstance(sent, tuple)
    assert late_one[1] == 15 and late_one[-2:] == (12, 15) and list(late_one) == [12, 15] and DONE == [2]
