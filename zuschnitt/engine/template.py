"""The process that workers are forked from: it imports what they need, and computes nothing itself."""

from __future__ import annotations

import importlib
import json
import os
import select
import signal
import socket
import sys
from contextlib import suppress
from pathlib import Path
from typing import Any

from ..core.files.apart import forked
from ..core.operations.registry import entries
from .store import Store
from .worker import begin

FIRST = ("zuschnitt.core.form.build", "zuschnitt.core.develop.developing")
"""What nearly all rows need: imported before the first process is forked."""
SLOW = (
    "scipy.spatial",
    "scipy.interpolate",
    "zuschnitt.core.reliefs.proposing",
    "ezdxf",
    "svgelements",
    "fontTools.ttLib",
    "trimesh",
    "zuschnitt.core.kernel.step_in",
    "zuschnitt.core.kernel.step_out",
)
"""What else takes long to import, in the order in which it is likely to be wanted, when nothing else is asked for."""
QUIET = 0.2
"""After so many seconds in which no process was asked for, something more is imported."""


def main() -> None:
    """Arguments: the descriptor of a socket, and the folder that the store is in."""
    serve(int(sys.argv[1]), Path(sys.argv[2]))


def serve(control: int, folder: Path) -> None:
    """Forks workers as it is asked to through the socket with the descriptor ``control``, until that is closed.

    A message that carries a descriptor asks for a worker, whose connection it is; one without asks for a sign of life.
    What goes back is {"forked": pid} or {"here": pid} in turn, {"ended": pid, "code": code} when a worker ends, as
    ``subprocess`` gives codes, and {"ready": true} once all imports are done.
    """
    os.nice(4)  # the window's own drawing goes first
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    ours = socket.socket(fileno=control)
    store = Store(folder.parent, name=folder.name)
    wake, woken = os.pipe()
    for end in (wake, woken):
        os.set_blocking(end, False)
    signal.signal(signal.SIGCHLD, lambda *_: None)
    signal.set_wakeup_fd(woken)
    entries()
    for name in FIRST:
        importlib.import_module(name)
    waiting = list(SLOW)
    while True:
        watched: list[Any] = [ours, wake]
        ready, _, _ = select.select(watched, [], [], QUIET if waiting else None)
        if wake in ready:
            os.read(wake, 512)
        _tell_ended(ours)
        if ours in ready:
            message, descriptors, _, _ = socket.recv_fds(ours, 16, 1)
            if not message:
                os._exit(0)
            if descriptors:
                _fork(ours, descriptors[0], store)
            else:
                ours.send(json.dumps({"here": os.getpid()}).encode())
        elif waiting:
            with suppress(ImportError):  # what needs it will say so
                importlib.import_module(waiting.pop(0))
            if not waiting:
                ours.send(json.dumps({"ready": True}).encode())


def _fork(ours: socket.socket, descriptor: int, store: Store) -> None:
    child = forked()
    if child == 0:
        try:
            ours.close()
            begin(descriptor, store)
        finally:
            os._exit(1)
    os.close(descriptor)
    ours.send(json.dumps({"forked": child}).encode())


def _tell_ended(ours: socket.socket) -> None:
    with suppress(ChildProcessError):
        while True:
            pid, status = os.waitpid(-1, os.WNOHANG)
            if pid == 0:
                return
            ours.send(json.dumps({"ended": pid, "code": os.waitstatus_to_exitcode(status)}).encode())


if __name__ == "__main__":
    with suppress(ConnectionError):  # the engine has ended
        main()
