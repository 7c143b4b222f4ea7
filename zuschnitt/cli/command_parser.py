"""How each command is read: its own words, and options from the parameters of the operations that it uses."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from pathlib import Path
from typing import Any

from .. import __version__
from ..core.shop.papers import PAPERS
from .examples import EXAMPLES
from .options import (
    DEVELOP_APART,
    PLACE_APART,
    add_options,
    amount,
    count,
    face_list,
    flange,
    place,
    relief,
    sheet,
    vector,
)
from .parser import Parser


def _outputs(parser: argparse.ArgumentParser, *, job: bool = True) -> None:
    group = parser.add_argument_group("what is written")
    group.add_argument("--report", type=Path, metavar="FILE.json", help="the figures as JSON")
    group.add_argument("--dxf", type=Path, metavar="FILE", help="the blank with its marks")
    group.add_argument("--svg", type=Path, metavar="FILE", help="the blank with its marks")
    group.add_argument("--pdf", type=Path, metavar="FILE", help="the blank in true size on pages of paper")
    group.add_argument("--paper", default="a4", choices=PAPERS, help="of these pages")
    group.add_argument("--shown", default="lines", choices=("lines", "stretch", "compression"),
                       help="what is printed below the lines")  # fmt: skip
    group.add_argument("--step", type=Path, metavar="FILE", help="curves: wrapped ones on the form, else the flat")
    group.add_argument(
        "--mesh", type=Path, metavar="FILE.stl", help="the form as triangles; FILE.3mf: its bodies by name"
    )
    group.add_argument("--quiet", action="store_true", help="no progress")
    if job:
        group.add_argument("--as-job", type=Path, metavar="FILE.zuschnitt", help="this call as a job, to be opened")


def _drawings(parser: argparse.ArgumentParser) -> None:
    group = parser.add_argument_group("what is written")
    group.add_argument("--report", type=Path, metavar="FILE.json", help="the figures as JSON")
    group.add_argument("--dxf", type=Path, metavar="FILE")
    group.add_argument("--svg", type=Path, metavar="FILE")
    group.add_argument("--as-job", type=Path, metavar="FILE.zuschnitt", help="this call as a job, to be opened")
    group.add_argument("--quiet", action="store_true", help="no progress")


def _picture(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("form", type=Path, help="a form (STEP, mesh), or a job")
    parser.add_argument("--png", type=Path, required=True, metavar="FILE")
    parser.add_argument("--size", type=sheet, default=(1600.0, 1000.0), metavar="WxH", help="in pixels, up to 4000")
    parser.add_argument("--material", metavar="NAME", help="what it is made of: typed in part, it is found")
    parser.add_argument("--colour", metavar="NAME", help="a name such as teal, or #rrggbb")
    parser.add_argument(
        "--view", default="corner", metavar="VIEW", help="corner, front, right, left, back, top, bottom"
    )
    parser.add_argument(
        "--light", default="left", metavar="FROM", help="left, right, above, front; default: %(default)s"
    )
    parser.add_argument(
        "--paint",
        action="append",
        default=[],
        metavar="FACES=MATERIAL[:COLOUR]",
        help="faces by their numbers in a material and colour of their own, such as 2,5=brass; may be repeated",
    )
    parser.add_argument(
        "--samples",
        type=int,
        metavar="N",
        help="finer edges and a softer shadow by more of them, 1 to 400; 25 where none is given",
    )
    parser.add_argument("--no-edges", action="store_true", help="without the lines of its edges")
    parser.add_argument("--no-shadow", action="store_true", help="without a shadow on the ground")
    _mesh(parser)
    parser.add_argument("--report", type=Path, metavar="FILE.json", help="the figures as JSON")
    parser.add_argument("--quiet", action="store_true", help="no progress")


def _nest(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("drawings", nargs="+", metavar="DRAWING[:COUNT]", help="cut files, DXF or SVG")
    parser.add_argument("--sheet", type=sheet, action="extend", nargs="+", required=True, metavar="WxH",
                        help="each is taken once, the last as often as it is needed")  # fmt: skip
    parser.add_argument("--count", type=count(1, 10_000), default=1, metavar="N", help="of each without its own count")
    parser.add_argument("--gap", type=amount(0, 1e4), default=0.0, metavar="MM", help="between parts")
    parser.add_argument("--margin", type=amount(0, 1e4), default=0.0, metavar="MM", help="at the sheet's edge")
    parser.add_argument("--grain", choices=("along", "across", "free"), default="free",
                        help="which turns are allowed; the sheet's grain runs along W")  # fmt: skip
    parser.add_argument("--seconds", type=count(1, 86_400), default=10, metavar="S", help="of search, in all")
    parser.add_argument("--dxf", type=Path, metavar="NAME.dxf", help="NAME-1.dxf, … for each sheet")
    parser.add_argument("--svg", type=Path, metavar="NAME.svg", help="NAME-1.svg, … for each sheet")
    parser.add_argument("--as-job", type=Path, metavar="FILE.zuschnitt", help="this call as a job, to be opened")
    parser.add_argument("--report", type=Path, metavar="FILE.json", help="the figures as JSON")
    parser.add_argument("--quiet", action="store_true", help="no progress")


def _check(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("drawing", type=Path, help="a cut file: DXF, SVG or G-code")
    group = parser.add_argument_group("the laser")
    group.add_argument("--kerf", type=amount(0, 10), default=0.2, metavar="MM", help="width of its cut (0.2)")
    group.add_argument("--feed", type=amount(1, 1e6), default=3000.0, metavar="MM_PER_MIN", help="3000")
    group.add_argument("--rapid", type=amount(1, 1e7), default=30000.0, metavar="MM_PER_MIN", help="30000")
    group.add_argument("--pierce", type=amount(0, 60), default=0.3, metavar="SECONDS", help="0.3")
    parser.add_argument("--form", type=Path, help="what is cut is formed back and held against this form")
    parser.add_argument("--compensated", action="store_true",
                        help="cuts stand half a kerf off the part: they are moved back first")  # fmt: skip
    _mesh(parser)
    _developing(parser)
    parser.add_argument("--report", type=Path, metavar="FILE.json", help="the figures as JSON")
    parser.add_argument("--as-job", type=Path, metavar="FILE.zuschnitt", help="this call as a job, to be opened")
    parser.add_argument("--quiet", action="store_true", help="no progress")


def _batch(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("job", type=Path)
    parser.add_argument("table", type=Path, metavar="TABLE.csv", help="its heads are named values of the job")
    parser.add_argument("--out", type=Path, required=True, metavar="DIR", help="the folder for the files")
    parser.add_argument(
        "--row", metavar="N", help="the job's row whose files are written; the last cut file by default"
    )
    parser.add_argument("--workers", type=count(1, 64), metavar="N", help="so many processes here")
    parser.add_argument("--scheduler", metavar="ADDRESS", help="a running dask.distributed scheduler, tcp://…")
    for ending in ("dxf", "svg", "step", "pdf"):
        parser.add_argument(
            f"--{ending}", action="store_true", dest=f"{ending}_files", help=f"a {ending.upper()} for each row"
        )
    parser.add_argument("--report", type=Path, metavar="FILE.json", help="the report, beside the one in the folder")
    parser.add_argument("--quiet", action="store_true", help="no progress")


def _sheet(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("form", type=Path, nargs="?", help="a solid with walls of one thickness (STEP)")
    block = parser.add_argument_group("a block in place of a file")
    block.add_argument("--block", type=vector, metavar="W,D,H", help="its outer size")
    add_options(block, "hollow_block", {"thickness": "hollow"}, {}, ("width", "depth", "height"))
    group = parser.add_argument_group("how it becomes sheet")
    group.add_argument("--pick", type=vector, metavar="x,y,z", help="a point of the side that is followed")
    group.add_argument("--other-side", action="store_true", help="the side opposite is followed")
    group.add_argument("--din6935", action="store_true", help="a bend takes what DIN 6935 says")
    group.add_argument("--bend-table", type=Path, metavar="FILE.csv",
                       help="columns material, thickness, radius, angle, allowance")  # fmt: skip
    group.add_argument("--corner-relief", type=relief, metavar="SHAPE[:SIZE]",
                       help="none, square or round: what is cut out where two bends meet")  # fmt: skip
    group.add_argument("--flange", action="append", type=flange,
                       metavar="EDGES:LENGTH[:ANGLE[:RADIUS[:in|out[:SETBACK]]]]",
                       help="a wall bent up at free edges, or at all of them (top); may be repeated")  # fmt: skip
    add_options(
        group,
        "make_sheet",
        names={"opened": "open", "rounding": "corners", "corners": "closing", "steps": "step-bends"},
        flags={},
        leave=("form", "opposite", "relief", "relief_size", "flanges", "rule", "table", "small", "stage"),
    )
    _outputs(parser)
    parser.add_argument("--step-flat", type=Path, metavar="FILE", help="the flat as a solid")
    parser.add_argument("--step-beside", type=Path, metavar="FILE",
                        help="what of the solid does not belong to the sheet, as solids")  # fmt: skip


def _picking(group: Any) -> None:
    group.add_argument("--faces", type=face_list, metavar="all|1,4", help="face numbers; all is the default")
    group.add_argument("--pick", type=vector, metavar="x,y,z", help="the face nearest to this point")
    group.add_argument("--tangent", action="store_true", help="and all faces that continue it smoothly")


def _developing(parser: argparse.ArgumentParser) -> None:
    group = parser.add_argument_group("which faces, which way, where")
    _picking(group)
    add_options(
        group,
        "develop",
        names={"triangles": "edge", "tab": "tabs", "keeps": "keep", "marks": "numbers"},
        flags={"apart": "apart", "marks": "numbers"},
        leave=DEVELOP_APART,
    )
    group.add_argument("--within", type=sheet, metavar="WxH", help="no piece with its tabs is larger than that sheet")
    group.add_argument("--reliefs", type=Path, metavar="CURVES", help="curves (JSON or STEP) at which it opens")
    add_options(group, "propose_reliefs", {"target": "under"}, {}, ("blank", "others", "most"))


def _art(parser: argparse.ArgumentParser) -> None:
    group = parser.add_argument_group("how the artwork lies on the blank, in this order")
    add_options(group, "place_artwork", {}, {}, PLACE_APART)
    group.add_argument(
        "--at", type=place, default=(0.0, 0.0), metavar="x,y|free", help="where its origin lies, or where there is room"
    )


def _mesh(parser: argparse.ArgumentParser) -> None:
    group = parser.add_argument_group("how a mesh is read (STL, OBJ, PLY, 3MF)")
    add_options(group, "bring_in", {}, {}, ("file",))


def _faces(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("form", type=Path)
    parser.add_argument("--report", type=Path, metavar="FILE.json")
    parser.add_argument("--mesh", type=Path, metavar="FILE.stl")
    parser.add_argument("--quiet", action="store_true")
    _mesh(parser)


def _on_the_blank(parser: argparse.ArgumentParser) -> None:
    """What every command takes that develops a form's faces and goes on from there."""
    _mesh(parser)
    _developing(parser)
    _outputs(parser)


def _develop(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("form", type=Path)
    add_options(parser, "fold_stage", {"share": "folded"}, {}, ("blank",))
    _on_the_blank(parser)


def _wrap(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("form", type=Path)
    parser.add_argument("artwork", type=Path)
    add_options(parser, "stand_body", {}, {}, ("file", "blank", "x", "y", "turn", "fit", "scale"))
    _art(parser)
    _on_the_blank(parser)


def _holes(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("form", type=Path)
    parser.add_argument("drawing", type=Path)
    _art(parser)
    _on_the_blank(parser)


def _raise(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("form", type=Path)
    parser.add_argument("artwork", type=Path)
    add_options(parser, "raise_artwork", {}, {}, ("artwork",))
    _art(parser)
    _on_the_blank(parser)


def _thicken(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("form", type=Path)
    parser.add_argument("--recess", type=Path, metavar="DRAWING", help="closed outlines that are sunk")
    add_options(parser, "thicken", {"shape": "formed"}, {"shape": "formed"}, ("blank", "recess", "thickness"))
    _art(parser)
    _on_the_blank(parser)


def _sweep(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("form", type=Path)
    parser.add_argument("artwork", type=Path)
    parser.add_argument("--section", type=Path, metavar="FILE", help="one closed outline (SVG, DXF)")
    add_options(parser, "sweep", {}, {}, ("artwork", "section"))
    _art(parser)
    _on_the_blank(parser)


def _stations(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("form", type=Path)
    own = ("form", "faces", "remembered", "path", "bar", "size", "wall", "tongue", "depth", "setback")
    add_options(parser, "lay_stations", {"start": "from"}, {}, own)
    parser.add_argument("--path", type=Path, metavar="CURVE", help="a curve (STEP, JSON) that the cuts are square to")
    parser.add_argument("--bar", dest="bar_text", metavar="KIND:SIZE[:WALL]",
                        help="round, half-round, square or triangle, with its size")  # fmt: skip
    parser.add_argument("--tongue", dest="tongue_text", metavar="THICKNESS,DEPTH[,SETBACK]", help="below each bar")
    _picking(parser)
    _mesh(parser)
    _outputs(parser)


def _pocket(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("form", type=Path)
    add_options(parser, "pocket", {}, {}, ("blank",))
    _picking(parser)
    _mesh(parser)
    _outputs(parser)


def _trace(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("form", type=Path)
    parser.add_argument("curves", type=Path)
    _on_the_blank(parser)


def _draw(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("form", type=Path)
    add_options(parser, "draw_curve", {}, {}, ("form", "faces", "remembered", "ends"))
    parser.add_argument("--closed", action="store_true", help="back to its beginning")
    _on_the_blank(parser)


def _panels(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("source", type=Path, help="curves (JSON or STEP edges) or, with --sections or --at, a form")
    parser.add_argument("--sections", type=count(1, 200), metavar="N", help="N panels through level sections of a form")
    parser.add_argument("--across", type=vector, default=(0.0, 0.0, 1.0), metavar="x,y,z", help="square to them")
    parser.add_argument(
        "--at",
        type=vector,
        action="append",
        metavar="x,y,z",
        help="through sections of a form at these points, square to the way along them",
    )
    parser.add_argument("--nearest", action="store_true", help="the nearest developable panel where none fits both")
    _mesh(parser)
    _outputs(parser)


def _compare(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("form", type=Path)
    parser.add_argument("--ways", default="relaxed,even,parametric", metavar="WAY,WAY")
    _picking(parser)
    parser.add_argument("--as-job", type=Path, metavar="FILE.zuschnitt", help="this call as a job, to be opened")
    parser.add_argument("--report", type=Path, metavar="FILE.json")
    parser.add_argument("--quiet", action="store_true")
    _mesh(parser)


def _thin(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("drawing", type=Path)
    add_options(parser, "thin_drawing", {"kept": "closed-only"}, {"kept": "closed"}, ("file",))
    parser.add_argument("--step", type=Path, metavar="FILE")
    _drawings(parser)


def _prepare(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("drawing", type=Path, help="a cut file, DXF or SVG")
    add_options(parser, "prepare_cut", {"version": "dxf-version"}, {}, ("drawing", "sheet"))
    parser.add_argument("--gcode", type=Path, metavar="FILE.nc", help="a program for a laser")
    _drawings(parser)


def _compare_curves(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("one", type=Path,
                        help="curves (STEP edges, JSON), a drawing (SVG, DXF) or a form (STEP, mesh)")  # fmt: skip
    parser.add_argument("other", type=Path)
    parser.add_argument("--report", type=Path, metavar="FILE.json")
    parser.add_argument("--as-job", type=Path, metavar="FILE.zuschnitt")
    parser.add_argument("--quiet", action="store_true")


def _ribs(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("form", type=Path)
    add_options(parser, "make_ribs", {"other": "and"}, {}, ("form", "curve"))
    parser.add_argument("--curve", type=Path, metavar="FILE",
                        help="a curve (JSON or STEP) that the X ribs are square to")  # fmt: skip
    parser.add_argument("--step", type=Path, metavar="FILE", help="the ribs, standing")
    _mesh(parser)
    _drawings(parser)


def _materials(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--quiet", action="store_true")


def _press(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("drawing", type=Path, help="a flat with bend lines, DXF or SVG")
    parser.add_argument("--report", type=Path, metavar="FILE.json", help="the figures as JSON")
    parser.add_argument("--as-job", type=Path, metavar="FILE.zuschnitt", help="this call as a job, to be opened")
    parser.add_argument("--quiet", action="store_true", help="no progress")


def _run(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("job", type=Path)
    parser.add_argument("--set", action="append", default=[], metavar="ROW.name=value", dest="edits")
    parser.add_argument("--row", metavar="N", help="write the result of this row, and not the last fitting one")
    _outputs(parser, job=False)
    parser.add_argument("--gcode", type=Path, metavar="FILE.nc", help="what is prepared for a cutter, as its program")
    parser.add_argument("--papers", type=Path, metavar="FILE.pdf", help="the shop papers of the whole job")


COMMANDS: dict[str, tuple[str, Callable[[argparse.ArgumentParser], None]]] = {
    "faces": ("the faces of a form", _faces),
    "develop": ("the blank of a form's faces", _develop),
    "wrap": ("artwork from the blank onto the form", _wrap),
    "holes": ("a drawing cut into the form: holes, and edges that divide its faces", _holes),
    "raise": ("closed outlines become material on the form, or are sunk into it", _raise),
    "thicken": ("the blank as a solid, with recesses; flat, or bent to the form", _thicken),
    "sweep": ("a section run along wrapped lines", _sweep),
    "stations": ("cuts at distances by a rule, with bars along them", _stations),
    "pocket": ("the faces' own outline moved inward, cut out square to them", _pocket),
    "trace": ("curves from the form to the blank", _trace),
    "draw": ("a smooth curve on the faces through points of them", _draw),
    "panels": ("developable panels between curves, or through sections of a form", _panels),
    "compare": ("the same faces in several ways, side by side", _compare),
    "thin": ("artwork made lighter", _thin),
    "prepare": ("a cut file with kerf, leads and bridges, in the order of the cuts", _prepare),
    "compare-curves": ("how far two sets of curves, or two forms, lie apart", _compare_curves),
    "sheet": ("a solid becomes a sheet part, folded and flat", _sheet),
    "ribs": ("a form as interlocking ribs", _ribs),
    "materials": ("the table of materials, with their sources", _materials),
    "picture": ("a form in its material and colour", _picture),
    "nest": ("parts of cut files laid on sheets", _nest),
    "check": ("the simulated laser reads a cut file", _check),
    "press": ("the simulated press brake finds an order for the bends of a flat", _press),
    "batch": ("a job's files, once for each row of a table", _batch),
    "run": ("a whole job", _run),
}
"""Each command: what it is in a few words, and what adds its arguments."""


def command_parser(called: str | None = None) -> Parser:
    """Reads all commands; of one that is ``called`` only that one's own arguments are made, which is quicker."""
    parser = Parser(prog="zuschnitt", description="From a form in space to its blank, and back.")
    parser.add_argument("--version", action="version", version=f"zuschnitt {__version__}")
    commands = parser.add_subparsers(dest="command", required=True, parser_class=Parser)
    for name, (words, arguments) in COMMANDS.items():
        command = commands.add_parser(name, help=words, epilog=f"Example: zuschnitt {EXAMPLES[name]}")
        if called in (None, name):
            arguments(command)
    return parser
