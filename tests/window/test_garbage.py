"""What has become garbage ends in the thread of the window."""

from __future__ import annotations

import threading

from tests.window.conftest import wait


class _Knot:
    """Refers to itself, so only the collector can end it."""

    def __init__(self, seen: list[str]) -> None:
        self.itself, self.seen = self, seen

    def __del__(self) -> None:
        self.seen.append(threading.current_thread().name)


def test_another_thread_that_allocates_collects_nothing(application):
    """Widgets of a closed window once ended in the thread that hears the engine, and the process with them."""
    seen: list[str] = []
    for _ in range(20):
        _Knot(seen)
    kept: list[list[int]] = []  # so much that a collection is due
    other = threading.Thread(target=lambda: kept.extend([k] for k in range(200_000)))
    other.start()
    other.join()
    wait(lambda: len(seen) == 20, "the collector")
    assert set(seen) == {threading.main_thread().name}
