"""A process that has imported the program once, and forks for each call that it is told of: a call without its start.

A line of JSON in is one call, ``{"arguments": [...], "seconds": 60}``; a line out is ``{"code", "said", "seconds"}``,
where the code is null for a call that took too long and below zero for one that a signal ended.
"""

from __future__ import annotations

import importlib
import json
import os
import pkgutil
import signal
import sys
import tempfile
import time
import traceback
from pathlib import Path

LOOKED = 0.01
"""How often a call is asked whether it has ended, in seconds."""


def import_program() -> None:
    sys.path.insert(0, str(Path(__file__).parents[1]))
    package = importlib.import_module("zuschnitt")
    for module in pkgutil.walk_packages(package.__path__, "zuschnitt."):
        if ".window" not in module.name and "__main__" not in module.name:
            importlib.import_module(module.name)
    importlib.import_module("zuschnitt.core.kernel.step_in")


def _child(arguments: list[str], heard: int) -> None:
    """Runs the call as ``python -m zuschnitt`` would, and ends."""
    os.setsid()
    os.dup2(os.open(os.devnull, os.O_RDONLY), 0)
    os.dup2(os.open(os.devnull, os.O_WRONLY), 1)
    os.dup2(heard, 2)
    sys.argv = ["zuschnitt", *arguments]
    code = 1
    try:
        from zuschnitt.__main__ import main

        code = main()
    except SystemExit as end:
        code = end.code if isinstance(end.code, int) else 1
    except BaseException:
        traceback.print_exc()
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(code)


def _ended(child: int, seconds: float) -> int | None:
    begin = time.monotonic()
    while time.monotonic() - begin < seconds:
        who, status = os.waitpid(child, os.WNOHANG)
        if who:
            return os.waitstatus_to_exitcode(status)
        time.sleep(LOOKED)
    os.killpg(child, signal.SIGKILL)
    os.waitpid(child, 0)
    return None


def main() -> None:
    answers = os.fdopen(os.dup(1), "w")
    import_program()
    for line in sys.stdin:
        call = json.loads(line)
        with tempfile.TemporaryFile() as heard:
            begin = time.monotonic()
            child = os.fork()
            if child == 0:
                _child(call["arguments"], heard.fileno())
            code = _ended(child, call["seconds"])
            heard.seek(0)
            said = heard.read().decode(errors="replace")
        print(json.dumps({"code": code, "said": said, "seconds": time.monotonic() - begin}), file=answers, flush=True)


if __name__ == "__main__":
    main()
