"""Progress on a terminal, and stopping by Ctrl-C."""

from __future__ import annotations

import os
import sys
import time
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, suppress
from io import TextIOWrapper
from typing import IO

from ..core.progress import SILENT, Progress

WIDTH = 30


def say(lines: Iterable[str]) -> None:
    """Prints lines; a reader that has had enough, or a closed or full stream, changes nothing of what was done."""
    print_lines(sys.stdout, lines)


def complain(sentence: str) -> None:
    """Prints a sentence on standard error, if there is one."""
    print_lines(sys.stderr, [sentence])


def print_lines(stream: IO[str] | None, lines: Iterable[str]) -> None:
    if stream is None:
        return
    try:
        if isinstance(stream, TextIOWrapper):  # an ASCII terminal has no ²
            stream.reconfigure(errors="replace")
        for line in lines:
            stream.write(f"{line}\n")
        stream.flush()
    except (OSError, ValueError):
        with suppress(OSError, ValueError):  # or the interpreter would complain of it once more at its end
            os.dup2(os.open(os.devnull, os.O_WRONLY), stream.fileno())


@contextmanager
def terminal_progress(quiet: bool) -> Iterator[Progress]:
    """A bar on standard error, if that is a terminal and quiet is not asked for."""
    if quiet or sys.stderr is None or sys.stderr.closed or not sys.stderr.isatty():
        yield SILENT
        return
    shown = 0.0

    def tell(fraction: float, text: str) -> None:
        nonlocal shown
        now = time.monotonic()
        if now - shown > 0.1:
            shown = now
            bar = "=" * round(WIDTH * fraction)
            with suppress(OSError, ValueError):
                sys.stderr.write(f"\r[{bar:<{WIDTH}}] {text[:40]:<40}")
                sys.stderr.flush()

    try:
        yield Progress(tell)
    finally:
        if shown:
            with suppress(OSError, ValueError):
                sys.stderr.write("\r" + " " * (WIDTH + 43) + "\r")
                sys.stderr.flush()
