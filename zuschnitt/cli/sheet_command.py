"""What ``sheet`` does: a solid, or a block by numbers, becomes a sheet part."""

from __future__ import annotations

from argparse import Namespace
from typing import Any

import numpy as np

from ..core.errors import CannotBeDone, WrongCall
from ..core.form.locator import foot
from ..core.progress import Progress
from ..core.results.beside import BesideResult
from ..core.results.result import Printing
from ..core.results.sheet import SheetResult
from ..core.wording import counted
from .job_of_call import JobOfCall
from .options import values_of
from .rows_of_call import brought_in

APART = ("form", "opposite", "relief", "relief_size", "flanges", "rule", "table", "small")
"""Parameters of a sheet part that a call gives in words of its own."""


def sheet(options: Namespace, progress: Progress) -> None:
    _require(options)
    call = JobOfCall(options, progress, options.form.stem if options.form else "block")
    if options.block is None:
        form = brought_in(call)
    else:
        width, depth, height = map(str, options.block)
        form = call.add(
            "hollow_block", width=width, depth=depth, height=height, thickness=options.thickness, off=options.off
        )
    values: dict[str, Any] = values_of(options, "make_sheet", APART)
    if options.other_side:
        values["opposite"] = "yes"
    if options.pick is not None:
        values["side"] = str(foot(call.value(form), np.array(options.pick))[0])
    if options.din6935:
        values["rule"] = "din"
    if options.bend_table is not None:
        values |= {"rule": "table", "table": call.file(options.bend_table)}
    if options.corner_relief is not None:
        shape, _, size = options.corner_relief.partition(":")
        values |= {"relief": shape, "relief_size": size}
    if options.flange:
        values["flanges"] = "; ".join(options.flange)
    row = call.add("make_sheet", form=form, **values)
    made = call.outcome(row)
    result = made.results[0]
    assert isinstance(result, SheetResult)
    about = result.report()["sheet"]
    wide, high = about["flat_size"]
    lines = [
        f"{made.brief}, {about['thickness']:g} mm thick; flat {wide:.3f} x {high:.3f} mm, "
        f"{about['flat_area']:.3f} mm²; {about['volume']:.3f} mm³"
    ]
    for bend in about["bends"]:
        verdict = "" if bend["verdict"]["can_take_it"] else f"  {bend['verdict']['reason']}"
        lines.append(
            f"bend {bend['number']}: {bend['angle']:g}° {bend['direction']}, radius {bend['radius']:g}, takes "
            f"{bend['allowance']:.4f}, {bend['length']:.3f} mm long{verdict}"
        )
    lines.extend(f"open along edge {seam['edge']}, {seam['length']:.3f} mm" for seam in about["seams"])
    call.add("cut_file", blank=row)
    if options.pdf:
        call.add("print_pages", blank=row, paper=options.paper, shown=options.shown)
    files = [] if options.step_flat is None else [(options.step_flat, result.flat_step())]
    beside = made.result("beside")
    if isinstance(beside, BesideResult):
        for body, faces in zip(beside.value, beside.faces, strict=True):
            lines.append(f"{body.name}: {counted(len(faces), 'face')}, {body.volume:.3f} mm³")
        if options.step_beside is not None:
            files.append((options.step_beside, beside.content("step", "", Printing())))
    elif options.step_beside is not None:
        raise CannotBeDone("Nothing is left beside this sheet part, so it cannot be written; leave --step-beside out.")
    call.finish("sheet", options.form, lines, files=files)


def _require(options: Namespace) -> None:
    """Raises WrongCall for words that do not belong together."""
    if (options.form is None) == (options.block is None):
        raise WrongCall(
            "Give either a file with a solid, or --block W,D,H with --hollow T; see zuschnitt sheet --help."
        )
    if options.block is not None and options.thickness is None:
        raise WrongCall("--block needs --hollow: how thick its walls are, in mm.")
    if options.block is None and (options.thickness is not None or options.off is not None):
        raise WrongCall("--hollow and --off are for a block by numbers; give --block W,D,H, or leave them out.")
    if options.din6935 + (options.bend_table is not None) + (options.k is not None) > 1:
        raise WrongCall("--k, --din6935 and --bend-table say the same thing; give one of them.")
    if options.side is not None and options.pick is not None:
        raise WrongCall("--side and --pick say the same thing; give one of them.")
