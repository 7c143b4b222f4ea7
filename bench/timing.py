"""How long a piece of work takes, several times over."""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np


def median(work: Callable[[], object], runs: int) -> float:
    """The median of so many runs, in seconds."""
    times = []
    for _ in range(runs):
        begin = time.perf_counter()
        work()
        times.append(time.perf_counter() - begin)
    return float(np.median(times))
