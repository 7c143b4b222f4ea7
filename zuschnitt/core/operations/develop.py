"""Develop: picked faces of a form become a blank."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from ..develop.blank import Blank
from ..develop.developing import develop
from ..develop.placing import Hold
from ..progress import Progress
from ..wording import area, counted, distance, percent, size
from .registry import Figure, Outcome, choice, faces, material, number, operation, source, vector


@operation(
    "develop",
    title="Develop",
    stage="form>blank",
    group="Develop",
    gives="blank",
    takes="faces of a form, a hold point, a direction",
    makes="their blank, and the map between both",
)
@dataclass(frozen=True)
class Develop:
    form: Any = source("form", hint="the form whose faces are developed")
    faces: Any = faces("the faces: pick them on the form, or write all or 1, 4")
    hold: Any = vector("its own corner", "the point of the form that lies at the blank's origin")
    along: Any = vector("its own edge", "the direction on the form that becomes x of the blank")
    way: Any = choice(
        "auto",
        {
            "auto": "best",
            "exact": "exact",
            "relaxed": "relaxed",
            "parametric": "parametric",
            "even": "parametric, evenly spaced",
        },
        "best: exact where every face allows it, else relaxed; parametric: a rectangle, lengths not kept",
    )
    seam: Any = choice(
        "auto",
        {
            "auto": "where the hold point puts it",
            "own": "at its own edge",
            "hold": "through the hold point",
            "opposite": "opposite the hold point",
        },
        "where a face that closes on itself is cut",
    )
    triangles: Any = number("", "mm", "size of the triangles of the relaxed way", above=0, words="chosen by itself")

    material: Any = material("the material that must be able to take it")

    sentence = (
        "Lay {faces} of {form} flat from {hold} with x along {along}, the {way} way, "
        "a seam {seam}; triangles {triangles}; out of {material}."
    )

    def run(self, progress: Progress) -> Outcome:
        picked = [f.number for f in self.form.faces] if self.faces == "all" else self.faces
        hold = Hold(*(None if v is None else np.array(v) for v in (self.hold, self.along)))
        blank = develop(self.form, picked, self.way, hold, self.seam, self.triangles, progress)
        blank = blank.judged(self.material)
        return Outcome("blank", blank, blank_figures(blank), blank.messages, _brief(blank))


def _brief(blank: Blank) -> str:
    pieces = "one piece" if blank.figures.pieces == 1 else f"{blank.figures.pieces} pieces"
    detail = f" · {counted(blank.figures.triangles, 'triangle')}" if blank.mesh is not None else ""
    return f"{blank.way} · {pieces}{detail}"


def blank_figures(blank: Blank) -> tuple[Figure, ...]:
    """The figures of a blank, as they stand along the bottom of the window."""
    figures = blank.figures
    x0, y0, x1, y1 = blank.bounds
    stretch = "none" if blank.way == "exact" else f"{percent(figures.stretch_max)} / {percent(figures.stretch_min)}"
    return (
        Figure("form", area(figures.area_form), "form"),
        Figure("blank", area(figures.area_blank), "blank"),
        Figure("change", percent(figures.area_change)),
        Figure("stretch", stretch),
        Figure("round trip", distance(figures.round_trip_max)),
        Figure("size", size(x1 - x0, y1 - y0), "blank"),
        *_verdict_figure(blank),
    )


def _verdict_figure(blank: Blank) -> tuple[Figure, ...]:
    if blank.verdict is None:
        return ()
    return (
        Figure(f"{blank.verdict.material.name} can take it", blank.verdict.words, "form" if blank.verdict.can else ""),
    )
