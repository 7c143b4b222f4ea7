"""How a call without a command is read; all calls are read by ``Parser``."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import Any, NoReturn

from .. import __version__
from ..core.errors import WrongCall
from .terminal import print_lines

COMMANDS = (
    "faces",
    "develop",
    "wrap",
    "holes",
    "raise",
    "thicken",
    "sweep",
    "stations",
    "pocket",
    "trace",
    "panels",
    "compare",
    "draw",
    "thin",
    "compare-curves",
    "sheet",
    "ribs",
    "materials",
    "picture",
    "prepare",
    "nest",
    "check",
    "press",
    "batch",
    "run",
)


class Parser(argparse.ArgumentParser):
    """Wrong calls become one sentence."""

    def _print_message(self, message: str, file: Any = None) -> None:
        if message:
            print_lines(file or sys.stderr, [message.rstrip("\n")])

    def error(self, message: str) -> NoReturn:
        raise WrongCall(f"Wrong call: {message}; see {self.prog} --help.")


def window_parser() -> Parser:
    parser = Parser(
        prog="zuschnitt",
        description="From a form in space to its blank, and back. Without a command, opens the window.",
        epilog=f"Commands: {', '.join(COMMANDS)}; see zuschnitt COMMAND --help.",
    )
    parser.add_argument("--version", action="version", version=f"zuschnitt {__version__}")
    parser.add_argument("job", nargs="?", type=Path, help="a job file to open")
    parser.add_argument("--demo", action="store_true", help="opens the demo job")
    parser.add_argument(
        "--shot",
        nargs=2,
        action="append",
        metavar=("VIEW", "FILE.png"),
        help="saves a picture and ends; may be repeated",
    )
    parser.add_argument(
        "--save", type=Path, metavar="FILE.zuschnitt", help="writes the job (the demo job) as a file, without a window"
    )
    parser.add_argument(
        "--headless", type=Path, metavar="FOLDER", help="runs the job without a window; writes its files"
    )
    parser.add_argument(
        "--register",
        action="store_true",
        help="puts the program into your menus, with its icon and file type, and ends",
    )
    return parser
