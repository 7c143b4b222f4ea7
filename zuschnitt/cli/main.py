"""Reads the command line and calls what it asks for."""

from __future__ import annotations

import argparse
import signal
import sys
import threading
from collections.abc import Callable, Sequence
from importlib import import_module
from typing import Any

from ..core.errors import Cancelled, ZuschnittError
from ..core.files.outputs import require_apart
from ..core.progress import Progress
from .parser import COMMANDS, window_parser
from .terminal import complain, say

ROOMS = (
    "commands",
    "body_commands",
    "sheet_command",
    "batch_command",
    "check_command",
    "nest_command",
    "picture_command",
    "press_command",
)
AGAIN = 0.4
"""After so many seconds an interruption comes again, where callbacks or compiled code have swallowed it."""


def main(arguments: Sequence[str] | None = None) -> int:
    """Runs one call and gives its exit code."""
    arguments = list(sys.argv[1:] if arguments is None else arguments)
    # also where the call was started in the background, which would leave Ctrl-C ignored
    if threading.current_thread() is threading.main_thread():
        signal.signal(signal.SIGINT, _interrupt)
        sys.unraisablehook = _unless_interrupted
    try:
        if arguments and arguments[0] in COMMANDS:
            return _command(arguments)
        return _window(arguments)
    except ZuschnittError as error:
        complain(error.sentence)
        return error.exit_code
    except KeyboardInterrupt:
        return _stopped()
    except Exception:
        if _interrupted.is_set():  # compiled code turns the interruption into an error of its own
            return _stopped()
        raise


_interrupted = threading.Event()


def _interrupt(signum: int, frame: object) -> None:
    _interrupted.set()
    signal.signal(signal.SIGALRM, _interrupt)
    signal.setitimer(signal.ITIMER_REAL, AGAIN)
    raise KeyboardInterrupt


def _unless_interrupted(unraisable: Any) -> None:
    """Nothing is said of an interruption that fell into a callback: it comes again."""
    if unraisable.exc_type is not KeyboardInterrupt:
        sys.__unraisablehook__(unraisable)


def _stopped() -> int:
    signal.setitimer(signal.ITIMER_REAL, 0)
    complain(Cancelled().sentence)
    return Cancelled.exit_code


def _command(arguments: list[str]) -> int:
    from .command_parser import COMMANDS, command_parser
    from .terminal import terminal_progress

    call: Any = _join_negative(arguments)
    called = call[0] if call and call[0] in COMMANDS else None
    options = command_parser(called).parse_args(call)
    _require_paths_apart(options)
    with terminal_progress(options.quiet) as progress:
        _function(options.command.replace("-", "_"))(options, progress)
    return 0


def _function(name: str) -> Callable[[argparse.Namespace, Progress], None]:
    """The function of a command, or with an underscore where Python has the name; no room is entered but for it."""
    for room in ROOMS:
        module = import_module(f"{__package__}.{room}")
        for each in (name, f"{name}_"):
            if found := getattr(module, each, None):
                return found  # type: ignore[no-any-return]
    raise AssertionError(f"no room has the command {name}")


def _require_paths_apart(options: argparse.Namespace) -> None:
    """Before anything is computed: no input is written over, and no file written twice."""
    names = ("report", "dxf", "svg", "pdf", "step", "step_flat", "step_beside", "mesh", "gcode", "papers", "as_job")
    written = [getattr(options, name, None) for name in names]
    read = [
        getattr(options, name, None)
        for name in ("form", "artwork", "curves", "source", "job", "reliefs", "drawing", "one", "other", "bend_table")
    ]
    require_apart([path for path in written if path], [path for path in read if path])


def _join_negative(arguments: list[str]) -> list[str]:
    """``--hold -1,2,3`` as ``--hold=-1,2,3``, which the parser would take for an option."""
    joined: list[str] = []
    for argument in arguments:
        number = len(argument) > 1 and argument[0] == "-" and (argument[1].isdigit() or argument[1] == ".")
        if number and joined and joined[-1].startswith("--") and "=" not in joined[-1]:
            joined[-1] += f"={argument}"
        else:
            joined.append(argument)
    return joined


def _window(arguments: list[str]) -> int:
    options = window_parser().parse_args(arguments)
    if options.save is not None:
        from ..core.job.job_file import load_job, save_job
        from ..demo.job import demo_job

        save_job(options.save, demo_job() if options.job is None else load_job(options.job))
        return 0
    if options.register:
        from ..desktop.registering import register

        say(str(path) for path in register())
        return 0
    if options.headless is not None:
        from .headless import run_headless

        return run_headless(options.job, options.headless)
    from ..window.start import start

    return start(options.job, options.demo, options.shot)
