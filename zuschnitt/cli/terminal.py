"""Progress on a terminal, and stopping by Ctrl-C."""

from __future__ import annotations

import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager

from ..core.progress import SILENT, Progress

WIDTH = 30


@contextmanager
def terminal_progress(quiet: bool) -> Iterator[Progress]:
    """A bar on standard error, if that is a terminal and quiet is not asked for."""
    if quiet or not sys.stderr.isatty():
        yield SILENT
        return
    shown = 0.0

    def tell(fraction: float, text: str) -> None:
        nonlocal shown
        now = time.monotonic()
        if now - shown > 0.1:
            shown = now
            bar = "=" * round(WIDTH * fraction)
            sys.stderr.write(f"\r[{bar:<{WIDTH}}] {text[:40]:<40}")
            sys.stderr.flush()

    try:
        yield Progress(tell)
    finally:
        if shown:
            sys.stderr.write("\r" + " " * (WIDTH + 43) + "\r")
            sys.stderr.flush()
