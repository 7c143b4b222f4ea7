"""Runs a window until something is so."""

from __future__ import annotations

import time


def pumped(application, done, seconds: float = 300.0) -> float:
    """Runs the window until ``done``; gives the longest time that the window itself did not answer."""
    end, longest, last = time.perf_counter() + seconds, 0.0, time.perf_counter()
    while not done():
        application.processEvents()
        now = time.perf_counter()
        longest, last = max(longest, now - last), now
        if now > end:
            raise TimeoutError
        time.sleep(0.002)
    return longest
