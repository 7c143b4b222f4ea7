"""The rows that many commands begin with: the form, its blank, artwork on it."""

from __future__ import annotations

from argparse import Namespace
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np

from ..core.carry.carried import CarriedCurve
from ..core.develop.blank import Blank
from ..core.errors import CannotBeDone
from ..core.expressions import length_of
from ..core.files.dxf import dxf_bytes
from ..core.form.form import Form
from ..core.parameters.picking import pick
from ..core.parameters.picks import picked_edges
from ..core.shop.division import divided_at, dividing_lines, parts_of
from .job_of_call import JobOfCall
from .options import DEVELOP_APART, PLACE_APART, values_of

MOST_DIVISIONS = 6
"""How often the faces of a form are divided, so that their pieces fit a sheet."""


def brought_in(call: JobOfCall) -> str:
    """The row of the form in the file of the call."""
    options = call.options
    return call.add("bring_in", file=call.file(options.form), **values_of(options, "bring_in", ("file",)))


def picked(form: Form, options: Namespace) -> str:
    """The faces that a call picks, as a job has them."""
    point = None if options.pick is None else np.array(options.pick)
    numbers = pick(form, options.faces, point, options.tangent)
    return "all" if len(numbers) == len(form.faces) else ", ".join(map(str, numbers))


def developed(call: JobOfCall) -> tuple[Form, str]:
    """The form of the call, and the row of its blank, with reliefs that are proposed where that is asked."""
    options = call.options
    form_row = brought_in(call)
    form = call.value(form_row)
    values: dict[str, Any] = values_of(options, "develop", DEVELOP_APART)
    values["faces"] = picked(form, options)
    if options.within is not None:
        values["wide"], values["high"] = map(str, options.within)
    reliefs = None
    if options.reliefs is not None:
        reliefs = call.add("curve_reliefs", form=form_row, file=call.file(options.reliefs))
    blank = call.add("develop", form=form_row, reliefs=reliefs, **values)
    if options.within is not None:
        blank = _parted(call, blank, values)
        form = call.value(call.job.row(blank).parameters["form"])
    if options.target is not None:
        proposed = call.add("propose_reliefs", blank=blank, target=options.target, others=reliefs)
        if call.value(proposed):
            blank = call.add("develop", form=form_row, reliefs=proposed, **values)
    return form, blank


class StillTooLarge(CannotBeDone):
    """Faces fit, or are divided, and pieces are too large all the same, as they are for their tabs."""


def _parted(call: JobOfCall, blank: str, values: dict[str, Any]) -> str:
    """The row of the blank; where single faces are larger than the sheet, of one whose form is divided for it."""
    try:
        call.value(blank)
        return blank
    except CannotBeDone as error:
        try:
            return _divided(call, call.instead(blank, wide=None, high=None), values)
        except StillTooLarge:
            raise error from None
        except CannotBeDone as why:
            width, height = call.options.within
            raise CannotBeDone(
                f"Some faces are larger than {width:g} x {height:g} mm, and lines that would divide them do not part "
                "them cleanly; name a sheet of another size, or cut these faces open first."
            ) from why


def _divided(call: JobOfCall, whole: str, values: dict[str, Any]) -> str:
    """The row of the blank of a form whose faces are divided by straight lines of the ``whole`` blank.

    Parts that are relaxed by themselves grow or shrink, so those that are still too large are divided again.
    """
    width, height = call.options.within
    unbound = {name: value for name, value in values.items() if name not in ("wide", "high")}
    parted = whole
    for turn in range(MOST_DIVISIONS):
        form = call.value(call.job.row(parted).parameters["form"])
        lines = dividing_lines(call.value(parted), form, width, height, length_of(call.options.tab or "0"))
        if not lines:
            break
        drawn = call.made(f"division-{turn + 1}.dxf", dxf_bytes(lines))
        art = call.add("place_artwork", file=drawn, blank=parted, x="0", y="0")
        cut = call.add("cut_into_form", artwork=art)
        call.leave_unsaid(parted, art, cut)
        form = call.value(cut)
        parents = form.before.parents
        now = [face.number for face in form.faces if parents[face.number - 1] in call.value(whole).faces]
        edges = {
            name: parts_of(form.before.form, picked_edges(values.get(name) or ""), form)
            for name in ("cuts", "straight", "long")
        }
        edges["cuts"] = (*edges["cuts"], *divided_at(form, parents))
        picks = {name: ", ".join(map(str, numbers)) for name, numbers in (("faces", now), *edges.items())}
        parted = call.add("develop", form=cut, **{**unbound, **picks})
    if parted == whole:
        raise StillTooLarge("Each piece fits the sheet already.")
    parted = call.instead(parted, wide=values["wide"], high=values["high"])
    try:
        call.value(parted)
    except CannotBeDone as error:
        raise StillTooLarge(str(error)) from error
    return parted


def with_artwork(call: JobOfCall, path: Path) -> tuple[Form, str, str]:
    """The form of the call, and the rows of its blank and of the artwork on it."""
    form, blank = developed(call)
    return form, blank, placed_artwork(call, blank, path)


def placed_artwork(call: JobOfCall, blank: str, path: Path) -> str:
    """The row of artwork that lies on a blank as the call says."""
    x, y = call.options.at
    placed = values_of(call.options, "place_artwork", PLACE_APART)
    return call.add("place_artwork", file=call.file(path), blank=blank, x=str(x), y=str(y), **placed)


def drawn(call: JobOfCall, blank: str) -> None:
    """The blank with all that is marked on it, and the pages that it is printed on where they are asked for."""
    call.add("cut_file", blank=blank)
    if call.options.pdf:
        call.add("print_pages", blank=blank, paper=call.options.paper, shown=call.options.shown)


def blank_lines(blank: Blank, curves: Sequence[CarriedCurve] = ()) -> list[str]:
    figures = blank.figures
    lines = [
        f"{blank.way}: form {figures.area_form:.3f} mm², blank {figures.area_blank:.3f} mm² "
        f"({figures.area_change:+.4f} %), stretch {figures.stretch_max:+.3f} / {figures.stretch_min:+.3f} %, "
        f"round trip {figures.round_trip_max:.6f} mm, pieces {figures.pieces}"
    ]
    if blank.verdict is not None:
        material = blank.verdict.material
        lines.append(f"{material.name} can take it: {blank.verdict.words} ({material.source})")
    lines.extend(
        f"{curve.name}: {curve.length_form:.3f} mm on the form, {curve.length_blank:.3f} mm on the blank"
        for curve in curves
    )
    return lines
