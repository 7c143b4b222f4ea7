"""Reads the command line and calls what it asks for."""

from __future__ import annotations

import argparse
import signal
import sys
import threading
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any, NoReturn

from .. import __version__
from ..core.errors import Cancelled, WrongCall, ZuschnittError
from ..core.files.form_file import CREASE, UNIT_CHOICES
from ..core.files.outputs import require_apart
from ..core.form.layers import LAYERS
from ..core.route import picked_edges
from ..core.shop.papers import PAPERS
from .terminal import complain, print_lines

COMMANDS = ("faces", "develop", "wrap", "trace", "panels", "compare", "materials", "run")


class Parser(argparse.ArgumentParser):
    """Wrong calls become one sentence."""

    def _print_message(self, message: str, file: Any = None) -> None:
        if message:
            print_lines(file or sys.stderr, [message.rstrip("\n")])

    def error(self, message: str) -> NoReturn:
        raise WrongCall(f"Wrong call: {message}; see {self.prog} --help.")


def _vector(text: str) -> tuple[float, ...]:
    parts = text.split(",")
    if len(parts) != 3:
        raise argparse.ArgumentTypeError(f"'{text}' must be three numbers with commas between: x,y,z")
    return _numbers(parts, text)


def _pair(text: str) -> tuple[float, ...]:
    parts = text.split(",")
    if len(parts) != 2:
        raise argparse.ArgumentTypeError(f"'{text}' must be two numbers with a comma between: x,y")
    return _numbers(parts, text)


LARGEST = 1e7
"""No number of a call is larger than this: in mm that are 10 km."""


def _numbers(parts: list[str], text: str) -> tuple[float, ...]:
    try:
        numbers = tuple(float(part) for part in parts)
    except ValueError:
        raise argparse.ArgumentTypeError(f"'{text}' is not made of numbers") from None
    if not all(abs(number) <= LARGEST for number in numbers):  # nor what is not a number
        raise argparse.ArgumentTypeError(f"'{text}' has a number that is not finite, or far too large")
    return numbers


def _ranged(low: float, high: float = LARGEST, *, above: bool = False) -> Callable[[str], float]:
    """Reads a number from ``low`` (or only above it) to ``high``."""

    def read(text: str) -> float:
        (value,) = _numbers([text], text)
        if value < low or value > high or (above and value == low):
            least = "above" if above else "at least"
            most = "" if high == LARGEST else f" and at most {high:g}"
            raise argparse.ArgumentTypeError(f"'{text}' must be {least} {low:g}{most}")
        return value

    return read


def _size(text: str) -> tuple[float, float]:
    """A width and a height in mm, such as 300x200."""
    parts = text.lower().replace("×", "x").split("x")
    numbers = _numbers(parts, text)
    if len(numbers) != 2 or min(numbers) <= 0:
        raise argparse.ArgumentTypeError(f"'{text}' must be a width and a height above 0, such as 300x200")
    return numbers[0], numbers[1]


def _number(text: str) -> float:
    return _numbers([text], text)[0]


def _numbers_list(text: str) -> str:
    """A list of numbers of edges or faces, such as 1,4 or 1-3, as it was written."""
    try:
        picked_edges(text)
    except ZuschnittError as error:
        raise argparse.ArgumentTypeError(error.sentence) from None
    return text


def _faces(text: str) -> str:
    return text if text.strip().lower() == "all" else _numbers_list(text)


def _outputs(parser: argparse.ArgumentParser, *, mesh: bool = True) -> None:
    group = parser.add_argument_group("what is written")
    group.add_argument("--report", type=Path, metavar="FILE.json", help="the figures as JSON")
    group.add_argument("--dxf", type=Path, metavar="FILE", help="the blank with its marks")
    group.add_argument("--svg", type=Path, metavar="FILE", help="the blank with its marks")
    group.add_argument("--pdf", type=Path, metavar="FILE", help="the blank in true size on pages of paper")
    group.add_argument("--paper", default="a4", choices=PAPERS, help="of these pages")
    group.add_argument("--shown", default="lines", choices=("lines", "stretch", "compression"),
                       help="what is printed below the lines")  # fmt: skip
    group.add_argument("--step", type=Path, metavar="FILE", help="curves: wrapped ones on the form, else the flat")
    if mesh:
        group.add_argument("--mesh", type=Path, metavar="FILE.stl", help="the form as triangles")
    group.add_argument("--quiet", action="store_true", help="no progress")


def _developing(parser: argparse.ArgumentParser) -> None:
    group = parser.add_argument_group("which faces, which way, where")
    group.add_argument("--faces", type=_faces, metavar="all|1,4", help="face numbers; all is the default")
    group.add_argument("--pick", type=_vector, metavar="x,y,z", help="the face nearest to this point")
    group.add_argument("--tangent", action="store_true", help="and all faces that continue it smoothly")
    group.add_argument("--way", default="auto", choices=("auto", "exact", "relaxed", "parametric", "even"))
    group.add_argument("--edge", type=_ranged(0, above=True), metavar="MM", help="triangle size of the relaxed way")
    group.add_argument("--hold", type=_vector, metavar="x,y,z", help="point of the form at the blank's origin")
    group.add_argument("--along", type=_vector, metavar="x,y,z", help="direction on the form that becomes +x")
    group.add_argument("--material", metavar="NAME", help="judges whether this material can take it")
    group.add_argument("--cuts", type=_numbers_list, metavar="1,4", default="", help="edges along which it is cut open")
    group.add_argument("--apart", action="store_true", help="each face as a piece of its own")
    group.add_argument("--tabs", type=_ranged(0), default=0.0, metavar="MM", help="width of glue tabs")
    group.add_argument(
        "--tab-angle", type=_ranged(10, 90), default=45.0, metavar="DEGREES", help="how their ends run in"
    )
    group.add_argument("--within", type=_size, metavar="WxH", help="no piece with its tabs is larger than that sheet")
    group.add_argument("--numbers", action="store_true", help="writes piece letters and edge numbers on it")
    group.add_argument("--limit", type=_ranged(0, 1000), default=0.0, metavar="PERCENT",
                       help="how much a twisted face may stretch, developed exactly")  # fmt: skip
    group.add_argument("--reliefs", type=Path, metavar="CURVES", help="curves (JSON or STEP) at which it opens")
    group.add_argument("--under", type=_ranged(0, 1000, above=True), metavar="PERCENT",
                       help="proposes reliefs that bring it under this stretch, and takes them")  # fmt: skip
    group.add_argument("--keep", default="lengths", choices=("lengths", "angles", "areas"),
                       help="what the relaxed way keeps")  # fmt: skip
    group.add_argument("--ratio", type=_ranged(0.01, 100), default=1.0, metavar="F",
                       help="how many times stiffer against compression than against stretch")  # fmt: skip
    group.add_argument(
        "--straight", type=_numbers_list, metavar="1,4", default="", help="edges that stay straight in it"
    )
    group.add_argument(
        "--long", type=_numbers_list, metavar="1,4", default="", help="edges that keep their length in it"
    )
    group.add_argument("--layer", default="given", choices=LAYERS, help="which layer of the sheet is laid flat")
    group.add_argument(
        "--thickness", type=_ranged(0, 1000, above=True), default=1.0, metavar="MM", help="of the sheet, for --layer"
    )
    group.add_argument("--seam", default="auto", choices=("auto", "own", "hold", "opposite"),
                       help="where a closed face is cut")  # fmt: skip


def _mesh(parser: argparse.ArgumentParser) -> None:
    group = parser.add_argument_group("how a mesh is read (STL, OBJ, PLY, 3MF)")
    group.add_argument("--unit", default="auto", choices=UNIT_CHOICES, help="auto: its own, or guessed and said")
    group.add_argument("--crease", type=_angle, default=CREASE, metavar="DEGREES",
                       help="faces end where its triangles turn by more than this")  # fmt: skip


def _angle(text: str) -> float:
    (value,) = _numbers([text], text)
    if not 0 < value <= 180:
        raise argparse.ArgumentTypeError(f"'{text}' must be above 0 and at most 180 degrees")
    return value


def command_parser() -> Parser:
    parser = Parser(prog="zuschnitt", description="From a form in space to its blank, and back.")
    parser.add_argument("--version", action="version", version=f"zuschnitt {__version__}")
    commands = parser.add_subparsers(dest="command", required=True, parser_class=Parser)
    faces = commands.add_parser("faces", help="the faces of a form")
    faces.add_argument("form", type=Path)
    faces.add_argument("--report", type=Path, metavar="FILE.json")
    faces.add_argument("--mesh", type=Path, metavar="FILE.stl")
    faces.add_argument("--quiet", action="store_true")
    _mesh(faces)
    develop = commands.add_parser("develop", help="the blank of a form's faces")
    develop.add_argument("form", type=Path)
    wrap = commands.add_parser("wrap", help="artwork from the blank onto the form")
    wrap.add_argument("form", type=Path)
    wrap.add_argument("artwork", type=Path)
    art = wrap.add_argument_group("how the artwork lies on the blank, in this order")
    art.add_argument("--scale", type=_number, default=1.0, metavar="F")
    art.add_argument("--turn", type=_number, default=0.0, metavar="DEGREES")
    art.add_argument("--at", type=_pair, default=(0.0, 0.0), metavar="x,y")
    trace = commands.add_parser("trace", help="curves from the form to the blank")
    trace.add_argument("form", type=Path)
    trace.add_argument("curves", type=Path)
    for each in (develop, wrap, trace):
        _mesh(each)
        _developing(each)
        _outputs(each)
    panels = commands.add_parser("panels", help="developable panels between curves, or through sections of a form")
    panels.add_argument("source", type=Path, help="curves (JSON or STEP edges) or, with --sections or --at, a form")
    panels.add_argument("--sections", type=int, metavar="N", help="N panels through level sections of a form")
    panels.add_argument("--across", type=_vector, default=(0.0, 0.0, 1.0), metavar="x,y,z", help="square to them")
    panels.add_argument(
        "--at",
        type=_vector,
        action="append",
        metavar="x,y,z",
        help="through sections of a form at these points, square to the way along them",
    )
    panels.add_argument("--nearest", action="store_true", help="the nearest developable panel where none fits both")
    _mesh(panels)
    _outputs(panels)
    compare = commands.add_parser("compare", help="the same faces in several ways, side by side")
    compare.add_argument("form", type=Path)
    compare.add_argument("--ways", default="relaxed,even,parametric", metavar="WAY,WAY")
    compare.add_argument("--faces", type=_faces, metavar="all|1,4")
    compare.add_argument("--pick", type=_vector, metavar="x,y,z")
    compare.add_argument("--tangent", action="store_true")
    compare.add_argument("--report", type=Path, metavar="FILE.json")
    compare.add_argument("--quiet", action="store_true")
    _mesh(compare)
    materials = commands.add_parser("materials", help="the table of materials, with their sources")
    materials.add_argument("--quiet", action="store_true")
    run = commands.add_parser("run", help="a whole job")
    run.add_argument("job", type=Path)
    run.add_argument("--set", action="append", default=[], metavar="ROW.name=value", dest="edits")
    run.add_argument("--row", metavar="N", help="write the result of this row, and not the last fitting one")
    _outputs(run)
    return parser


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
        "--headless", type=Path, metavar="FOLDER", help="runs the job without a window; writes its files"
    )
    return parser


def main(arguments: Sequence[str] | None = None) -> int:
    """Runs one call and gives its exit code."""
    arguments = list(sys.argv[1:] if arguments is None else arguments)
    # also where the call was started in the background, which would leave Ctrl-C ignored
    if threading.current_thread() is threading.main_thread():
        signal.signal(signal.SIGINT, _interrupt)
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
    raise KeyboardInterrupt


def _stopped() -> int:
    complain(Cancelled().sentence)
    return Cancelled.exit_code


def _command(arguments: list[str]) -> int:
    from . import commands
    from .terminal import terminal_progress

    call: Any = _join_negative(arguments)
    options = command_parser().parse_args(call)
    _require_paths_apart(options)
    with terminal_progress(options.quiet) as progress:
        getattr(commands, options.command)(options, progress)
    return 0


def _require_paths_apart(options: argparse.Namespace) -> None:
    """Before anything is computed: no input is written over, and no file written twice."""
    written = [getattr(options, name, None) for name in ("report", "dxf", "svg", "pdf", "step", "mesh")]
    read = [getattr(options, name, None) for name in ("form", "artwork", "curves", "source", "job", "reliefs")]
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
    if options.headless is not None:
        from .headless import run_headless

        return run_headless(options.job, options.headless)
    from ..window.start import start

    return start(options.job, options.demo, options.shot)
