"""A process that has imported what calls of the program need, and forks one for each call: importing takes seconds.

Each call is a process of its own as a shell starts it: its arguments, folder, environment and standard streams are
those that it is given, and nothing of it is left when it ends. Calls that are about starting, signals, limits or
closed streams are started from nothing instead (``test_commands.call``).
"""

from __future__ import annotations

import atexit
import importlib
import json
import os
import signal
import subprocess
import sys
import tempfile
import time
import traceback
from collections.abc import Mapping, Sequence
from contextlib import suppress
from functools import cache
from pathlib import Path

ROOT = Path(__file__).parents[2]
NEEDED = (
    "scipy.interpolate",
    "scipy.spatial",
    "scipy.sparse.linalg",
    "ezdxf",
    "trimesh",
    "zuschnitt.cli.commands",
    "zuschnitt.core.develop.developing",
    "zuschnitt.core.kernel.step_in",
    "zuschnitt.core.kernel.step_out",
    "zuschnitt.core.solids.bodies",
)


def called(arguments: Sequence[str], environment: Mapping[str, str], limit: float) -> subprocess.CompletedProcess:
    """What ``python -m zuschnitt`` with these arguments says and gives back."""
    with tempfile.TemporaryDirectory() as folder:
        streams = [str(Path(folder) / name) for name in ("out", "err")]
        asked = {"arguments": list(arguments), "folder": os.getcwd(), "environment": dict(environment), "to": streams}
        server = _server()
        assert server.stdin is not None and server.stdout is not None
        server.stdin.write(json.dumps({**asked, "limit": limit}) + "\n")
        server.stdin.flush()
        code = json.loads(server.stdout.readline())
        if code is None:
            raise subprocess.TimeoutExpired(list(arguments), limit)
        said = [Path(path).read_text() for path in streams]
    return subprocess.CompletedProcess(["zuschnitt", *arguments], code, *said)


@cache
def _server() -> subprocess.Popen:
    """The one of this process, which ends with it."""
    environment = {**os.environ, "PYTHONPATH": str(ROOT), "OPENBLAS_NUM_THREADS": "1"}
    made = subprocess.Popen(
        [sys.executable, __file__], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, env=environment
    )
    assert made.stdin is not None
    atexit.register(made.stdin.close)
    return made


def serve() -> None:
    """Reads a call from each line, and answers with the code it ended with; null where it took too long."""
    for name in NEEDED:
        importlib.import_module(name)
    for line in sys.stdin:
        asked = json.loads(line)
        child = os.fork()
        if child == 0:
            _be_called(asked)
        end = time.monotonic() + asked["limit"]
        while True:
            ended, status = os.waitpid(child, os.WNOHANG)
            if ended:
                answer = os.waitstatus_to_exitcode(status)
                break
            if time.monotonic() > end:
                with suppress(ProcessLookupError):
                    os.kill(child, signal.SIGKILL)
                os.waitpid(child, 0)
                answer = None
                break
            time.sleep(0.005)
        print(json.dumps(answer), flush=True)


def _be_called(asked: dict) -> None:
    """In the forked process: becomes the program."""
    code = 1
    try:
        os.chdir(asked["folder"])
        os.environ.clear()
        os.environ.update(asked["environment"])
        nothing = os.open(os.devnull, os.O_RDONLY)
        files = [os.open(path, os.O_WRONLY | os.O_CREAT) for path in asked["to"]]
        for source, stream in zip((nothing, *files), (0, 1, 2), strict=True):
            os.dup2(source, stream)
        sys.argv = ["zuschnitt", *asked["arguments"]]
        from zuschnitt.__main__ import main

        code = main()
    except SystemExit as end:
        code = end.code if isinstance(end.code, int) else 0 if end.code is None else 1
    except BaseException:
        traceback.print_exc()
    finally:
        for stream in (sys.stdout, sys.stderr):
            stream.flush()
        os._exit(code)


if __name__ == "__main__":
    serve()
