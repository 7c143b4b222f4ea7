"""Reads files in a process of their own, so that no file can take the program down, hang it or fill its memory.

The process is forked, so it costs little; it ends with its parent. What goes wrong inside becomes one sentence.
"""

from __future__ import annotations

import ctypes
import faulthandler
import gc
import logging
import os
import resource
import signal
import sys
import threading
import warnings
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from multiprocessing import Pipe
from multiprocessing.connection import Connection
from typing import Any, TypeVar

import numpy as np

from ..errors import Refused, ZuschnittError
from ..progress import SILENT, Progress

T = TypeVar("T")

LONGEST = 300
"""No sentence about a file has more characters than this."""
MEMORY = 4 << 30
"""How many bytes more than the program itself reading may take."""
LISTEN = 0.05
"""How often it is looked whether the reading shall stop, in seconds."""
PATIENCE = 8.0
PER_BYTE = 4e-6
"""Files that are parsed here may take so many seconds, and so many more for each byte."""
DEATH_SIGNAL = 1
"""PR_SET_PDEATHSIG of prctl(2)."""


def read_apart(
    name: str,
    advice: str,
    read: Callable[[Progress], T],
    progress: Progress = SILENT,
    seconds: float | None = None,
    silence: float | None = None,
    more: int = 0,
    meanwhile: Callable[[], object] = lambda: None,
) -> T:
    """What ``read`` gives, computed in a forked process; ``name`` is the file's, ``advice`` what to do about it.

    Raises Refused where it fails, crashes, needs too much memory, takes longer than ``seconds`` or makes no progress
    for the time of ``silence``; what ``read`` raises of the program's own errors comes through. ``more`` bytes of
    memory may be taken for a file that is known to be large. ``meanwhile`` is called once while it is read.
    """
    for stream in (sys.stdout, sys.stderr):
        with suppress(AttributeError, OSError, ValueError):  # there may be none, or nobody may listen
            stream.flush()
    ours, theirs = Pipe(duplex=False)
    child = forked()
    if child == 0:
        ours.close()
        _child(theirs, name, advice, read, seconds, MEMORY + more)
    theirs.close()
    try:
        meanwhile()
        return _heard(ours, child, name, advice, progress, silence if seconds is None else 2 * seconds + 5)
    finally:
        ours.close()
        with suppress(ProcessLookupError):
            os.kill(child, signal.SIGKILL)
        with suppress(ChildProcessError):
            os.waitpid(child, 0)


def patience(content: bytes) -> float:
    """For how many seconds a file of this size may be parsed."""
    return PATIENCE + PER_BYTE * len(content)


def _heard(
    connection: Connection, child: int, name: str, advice: str, progress: Progress, seconds: float | None
) -> Any:
    at, waited = (0.0, f"reading {name}"), 0.0
    while True:
        progress.step(*at)
        try:
            if connection.poll(LISTEN):
                kind, value = connection.recv()
                if kind == "done":
                    return value
                if kind == "error":
                    raise value
                at, waited = value, 0.0
                continue
        except (EOFError, OSError):
            _, status = os.waitpid(child, 0)
            raise Refused(_shortened(f"{name} cannot be read: {_ending(status)}; {advice}.")) from None
        waited += LISTEN
        if seconds is not None and waited > seconds:
            raise Refused(_shortened(f"{name} takes too long to be read; {advice}, or make it simpler."))


def _ending(status: int) -> str:
    if os.WIFSIGNALED(status) and os.WTERMSIG(status) == signal.SIGKILL:
        return "it needs too much memory"
    return "its contents are damaged"


def _child(
    connection: Connection, name: str, advice: str, read: Callable[[Progress], Any], seconds: float | None, memory: int
) -> None:
    """Never returns."""
    try:
        faulthandler.disable()  # a crash here is expected, and said in a sentence
        end_with_parent()
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        with suppress(ValueError, OSError):
            limit = _used() + memory
            resource.setrlimit(resource.RLIMIT_AS, (limit, limit))
        last = [-1.0]

        def tell(fraction: float, text: str) -> None:
            if fraction - last[0] > 0.01:
                last[0] = fraction
                connection.send(("progress", (fraction, text)))

        try:
            with guarded(name, advice), time_limit(name, advice, seconds):
                connection.send(("done", read(Progress(tell))))
        except ZuschnittError as error:
            connection.send(("error", error.bare()))
        except MemoryError:
            connection.send(("error", Refused(_shortened(f"{name} needs too much memory to be read; {advice}."))))
    except BaseException:  # nobody is there to hear of it any more
        os._exit(1)
    os._exit(0)


def forked() -> int:
    """As os.fork, but cyclic garbage of the parent is never collected in the child: 0 in the child, else its number.

    What the parent has let go may end pictures, widgets or threads that do not exist here, and the child with them.
    """
    child = os.fork()
    if child == 0:
        gc.freeze()
    return child


def end_with_parent() -> None:
    """From now on this process is ended by the system when the one that forked it ends."""
    ctypes.CDLL(None).prctl(DEATH_SIGNAL, signal.SIGKILL)


def _used() -> int:
    """The address space that the process takes already, in bytes."""
    with open("/proc/self/statm") as statm:
        return int(statm.read().split()[0]) * resource.getpagesize()


@contextmanager
def time_limit(name: str, advice: str, seconds: float | None) -> Iterator[None]:
    """Raises Refused in the block when it takes longer than ``seconds``; only in a main thread, else without limit."""

    def late(signum: int, frame: object) -> None:
        raise Refused(_shortened(f"{name} takes too long to be read; {advice}, or make it simpler."))

    if seconds is None or threading.current_thread() is not threading.main_thread():
        yield
        return
    before = signal.getsignal(signal.SIGALRM)
    signal.signal(signal.SIGALRM, late)
    signal.setitimer(signal.ITIMER_REAL, seconds)
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
        signal.signal(signal.SIGALRM, before)


@contextmanager
def guarded(name: str, advice: str) -> Iterator[None]:
    """Whatever a library raises while a file is read becomes one sentence; what it warns of stays unsaid."""
    level = logging.root.manager.disable
    logging.disable(logging.CRITICAL)
    try:
        with warnings.catch_warnings(), np.errstate(all="ignore"):
            warnings.simplefilter("ignore")
            yield
    except ZuschnittError as error:
        if len(error.sentence) <= LONGEST:
            raise
        raise type(error)(_shortened(error.sentence), faces=error.faces, points=error.points) from error
    except (MemoryError, RecursionError) as error:
        raise Refused(_shortened(f"{name} is nested or repeated too much to be read; {advice}.")) from error
    except Exception as error:
        if "MALLOC" in str(error):  # so the sparse solver says that there is no memory
            raise Refused(_shortened(f"{name} needs too much memory to be read; {advice}.")) from error
        reason = " ".join(str(error).split()) or type(error).__name__
        raise Refused(f"{_start(name, reason)}; {advice}.") from error
    finally:
        logging.disable(level)


def _start(name: str, reason: str) -> str:
    return f"{name[-80:]} is damaged and cannot be read ({reason[:110]})"


def _shortened(sentence: str) -> str:
    """At most ``LONGEST`` characters: what is left out is in the middle, since what to do stands at the end."""
    if len(sentence) <= LONGEST:
        return sentence
    half = LONGEST // 2 - 2
    return f"{sentence[:half]} … {sentence[-half:]}"
