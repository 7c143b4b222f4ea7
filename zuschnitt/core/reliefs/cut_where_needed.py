"""Developing what cannot be had in one sheet: cut in gores, or inwards from its outline."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ..develop.assembly import PLAIN, Assembly
from ..develop.blank import Blank
from ..develop.developing import TooMuchStretch, develop
from ..develop.placing import Hold
from ..errors import CannotBeDone
from ..form.form import Form
from ..progress import SILENT, Progress
from ..wording import counted
from .proposing import propose

TOLERABLE = 30.0
"""Where it has to be cut to be had at all, it is cut until it gives by no more percent than this."""


def develop_cut(
    form: Form,
    faces: Sequence[int],
    way: str = "auto",
    hold: Hold = Hold(),  # noqa: B008 - a frozen value
    seam: str = "auto",
    edge_length: float | None = None,
    progress: Progress = SILENT,
    assembly: Assembly = PLAIN,
    limit: float = 0.0,
) -> Blank:
    """As ``develop``, but what no material could follow in one sheet is cut open, and that is said.

    Only where the way is left open and no reliefs are given. Raises CannotBeDone where no such cuts are found.
    """
    try:
        return develop(form, faces, way, hold, seam, edge_length, progress, assembly, limit)
    except TooMuchStretch as error:
        if way != "auto" or assembly.reliefs or error.tried is None:
            raise
        try:
            found = propose(*error.tried, TOLERABLE, progress=progress)
        except CannotBeDone:
            raise error from None
        if not found.reliefs:
            raise
    cut = replace(assembly, reliefs=tuple(relief.points for relief in found.reliefs))
    made = develop(form, faces, "relaxed", hold, seam, edge_length, progress, cut)
    where = counted(len(found.reliefs), "relief")
    said = f"In one sheet it would have to give by {found.uncut:.0f} %, so it was cut at {where}."
    return replace(made, messages=(said, *made.messages))
