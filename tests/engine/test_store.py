"""Results kept on disk: whole or not at all, found again, and never more than the limit."""

from __future__ import annotations

import gc
import os
from pathlib import Path

import numpy as np
import pytest

from zuschnitt.core.plane.contour import Contour
from zuschnitt.engine import store as module
from zuschnitt.engine.store import Store


@pytest.fixture
def store(tmp_path):
    return Store(tmp_path / "kept")


def test_what_is_put_is_found_again_by_another(store):
    store.put("a", np.arange(5))
    assert Store(store.base).get("a").tolist() == [0, 1, 2, 3, 4]
    with pytest.raises(KeyError):
        store.get("b")


def test_what_is_read_is_little_work_for_the_collector(store):
    """Each array came with two objects that hold its memory: 1.6 million of them in a job of 400 rows."""
    drawing = [Contour.polyline([[k, 0.0], [k, 1.0], [0.0, 1.0]]) for k in range(50)]
    store.put("drawing", drawing)
    gc.collect()
    gc.disable()
    try:
        before = len(gc.get_objects())
        found = store.get("drawing")
        assert len(gc.get_objects()) - before < 2 * len(drawing)  # a contour each, and room for what is odd
    finally:
        gc.enable()
    assert all(np.array_equal(a.points, b.points) for a, b in zip(found, drawing, strict=True))


@pytest.mark.parametrize("place", [0, 10, 20, 33, 60, -1])
def test_a_damaged_file_counts_as_not_there(store, place):
    store.put("a", list(range(100)))
    file = store.folder / "a"
    content = bytearray(file.read_bytes())
    content[place] ^= 1
    file.write_bytes(content)
    with pytest.raises(KeyError):
        store.get("a")
    assert not store.has("a")
    store.put("a", "anew")
    assert store.get("a") == "anew"


@pytest.mark.parametrize("length", [0, 5, 20, 40])
def test_a_file_cut_off_counts_as_not_there(store, length):
    store.put("a", list(range(100)))
    file = store.folder / "a"
    file.write_bytes(file.read_bytes()[:length])
    with pytest.raises(KeyError):
        store.get("a")


def test_what_was_used_longest_ago_goes_first(tmp_path):
    store = Store(tmp_path, limit=3500)
    for age, key in enumerate("abcd"):
        store.put(key, bytes(1000))
        os.utime(store.folder / key, (1000 - age, 1000 - age))
    store.get("d")
    store.trim()
    assert [key for key in "abcd" if store.has(key)] == ["a", "b", "d"]


def test_another_version_does_not_read_it(store, monkeypatch):
    store.put("a", 1)
    monkeypatch.setattr(module, "version", lambda: "other")
    other = Store(store.base, limit=1)
    assert not other.has("a")
    other.trim()
    assert not store.folder.exists()


def test_where_nothing_can_be_written_it_is_kept_for_now(tmp_path):
    blocked = tmp_path / "file"
    blocked.write_text("")
    store = Store(blocked / "kept")
    store.put("a", 1)
    assert store.get("a") == 1 and tmp_path not in store.folder.parents


def test_nothing_half_written_is_left(store):
    with pytest.raises(AttributeError):
        store.put("a", lambda: 1)  # what cannot be pickled
    assert list(Path(store.folder).iterdir()) == []
