"""A process with all slow imports done: the engines of tests begin with a copy of it, and pay for no imports.

What the engine's own process does when it starts is tested in ``tests/engine``.
"""

from __future__ import annotations

import json
import os
import signal
import socket
import subprocess
import sys
import time
from contextlib import suppress
from pathlib import Path


class Nursery:
    """Started once; ``begin_template`` stands in for the function of ``engine.crew`` of that name."""

    def __init__(self) -> None:
        self._control, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
        with theirs:
            self._process = subprocess.Popen(
                [sys.executable, "-m", "tests.nursery", str(theirs.fileno())],
                pass_fds=[theirs.fileno()],
                stdin=subprocess.DEVNULL,
                stdout=subprocess.DEVNULL,
                cwd=Path(__file__).parents[1],
                env={**os.environ, "OPENBLAS_NUM_THREADS": "1"},
            )

    def begin_template(self, control: int, folder: Path) -> Copy:
        about = {"folder": str(folder), "environment": dict(os.environ)}
        socket.send_fds(self._control, [json.dumps(about).encode()], [control])
        return Copy(json.loads(self._control.recv(4096)))

    def close(self) -> None:
        self._control.close()
        self._process.wait()


class Copy:
    """One that was forked from the nursery, as far as the engine knows such processes."""

    def __init__(self, pid: int) -> None:
        self.pid = pid

    def kill(self) -> None:
        with suppress(ProcessLookupError):  # it may have ended, as any process may
            os.kill(self.pid, signal.SIGKILL)

    def wait(self) -> None:
        while Path(f"/proc/{self.pid}").exists():
            time.sleep(0.001)


def main() -> None:
    import importlib

    from zuschnitt.core.files.apart import end_with_parent, forked
    from zuschnitt.core.operations.registry import entries
    from zuschnitt.engine.template import FIRST, SLOW, serve

    end_with_parent()
    entries()
    for name in (*FIRST, *SLOW):
        importlib.import_module(name)
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)  # the system buries them
    ours = socket.socket(fileno=int(sys.argv[1]))
    while True:
        message, descriptors, _, _ = socket.recv_fds(ours, 1 << 18, 1)
        if not message:
            return
        child = forked()
        if child == 0:
            ours.close()
            about = json.loads(message)
            os.environ.clear()
            os.environ.update(about["environment"])
            try:
                serve(descriptors[0], Path(about["folder"]))
            finally:
                os._exit(0)
        os.close(descriptors[0])
        ours.send(json.dumps(child).encode())


if __name__ == "__main__":
    main()
