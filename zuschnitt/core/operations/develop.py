"""Develop: picked faces of a form become a blank."""

from __future__ import annotations

import time
from dataclasses import replace
from typing import TYPE_CHECKING, Any

import numpy as np

from ..develop.limits import MOST_CELLS, MOST_TRIANGLES, triangle_count
from ..errors import Refused
from ..materials import k_factor_of
from ..parameters import (
    choice,
    direction,
    edges,
    faces,
    identities,
    material,
    number,
    optional_source,
    point,
    some_of,
    source,
)
from ..progress import Progress
from ..results.blank import BlankResult
from ..results.result import Outcome, outcome
from .registry import operation

if TYPE_CHECKING:
    from ..develop.blank import Blank
    from ..geometry.curves import Array

SLOW, COARSE = 60_000, 6_000
"""From so many triangles on, a first look with so many is shown."""


@operation(
    "develop",
    title="Develop",
    stage="form>blank",
    group="Develop",
    gives="blank",
    takes="faces of a form, a hold point, a direction",
    makes="their blank, and the map between both",
)
class Develop:
    form: Any = source("form", hint="the form whose faces are developed")
    faces: Any = faces("the faces: pick them on the form, or write all or 1, 4")
    remembered: Any = identities()
    hold: Any = point("its own corner", "the point of the form that lies at the blank's origin")
    along: Any = direction("its own edge", "the direction on the form that becomes x of the blank")
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
    cuts: Any = edges("no edges", "edges along which it is cut open; click them on the form")
    apart: Any = choice(
        "joined",
        {"joined": "as one piece where they join", "apart": "each as a piece of its own"},
        "how faces are laid",
    )
    tab: Any = number(0, "mm", "width of the glue tabs; 0 for none", low=0)
    tab_angle: Any = number(45, "°", "how the ends of the tabs run in", low=10, high=90)
    marks: Any = choice(
        "none",
        {"none": "nothing", "numbers": "letters, edge numbers, marks"},
        "what is written on the pieces",
    )
    limit: Any = number(0, "%", "how much a twisted face may stretch, developed exactly", low=0)
    reliefs: Any = optional_source(
        "reliefs", words="no reliefs", hint="reliefs drawn or proposed in a row above", on="form"
    )
    keeps: Any = choice(
        "lengths",
        {"lengths": "lengths", "angles": "angles", "areas": "areas"},
        "what the relaxed way keeps as well as it can",
    )
    ratio: Any = number(1, "", "how many times stiffer against compression than against stretch", low=0.01, high=100)
    straight: Any = edges("no edges", "edges that stay straight; click them on the form")
    long: Any = edges("no edges", "edges that keep their length; click them on the form")
    layer: Any = choice(
        "given",
        {
            "given": "the faces as they are",
            "neutral": "the neutral layer, the faces being the outer side",
            "neutral_of_inner": "the neutral layer, the faces being the inner side",
            "other": "the inner side, the faces being the outer one",
        },
        "which layer of the sheet is laid flat",
    )
    thickness: Any = number("thickness", "mm", "thickness of the sheet", above=0)
    wide: Any = number("", "mm", "width of the sheet that each piece fits in", above=0, words="any width")
    high: Any = number("", "mm", "height of the sheet that each piece fits in", above=0, words="any height")
    taken: Any = some_of("reliefs", "all of them", "which of the reliefs are taken, by their numbers")

    cells_along: Any = number(
        "", "", "cells along x of the net of a patch", low=1, high=MOST_CELLS, words="as many as make them square"
    )
    cells_across: Any = number(
        "", "", "cells along y of the net of a patch", low=1, high=MOST_CELLS, words="as many as make them square"
    )

    sentence = "Lay {faces} of {form} flat from {hold} with x along {along}, the {way} way, out of {material}."
    clauses = (
        ("seam", "A face that closes on itself opens {seam}."),
        ("cut edges open", "It is cut open along {cuts}."),
        ("reliefs", "It opens at {reliefs}, taking {taken}."),
        ("faces apart", "Faces are laid {apart}."),
        ("glue tabs", "Edges to be joined get tabs {tab} wide, run in by {tab_angle}."),
        ("size of the sheet", "No piece is larger than {wide} by {high}."),
        ("letters and numbers", "On it is written: {marks}."),
        ("twisted faces", "Twisted faces may stretch by {limit}."),
        ("layer of the sheet", "Of a sheet {thickness} thick it lays {layer} flat."),
        ("what is kept", "Relaxed, it keeps {keeps}, compression {ratio} times as stiff as stretch."),
        ("held edges", "Along {straight} it stays straight, along {long} as long as it is."),
        ("triangles", "Its triangles are {triangles}."),
        ("the net of a patch", "A patch shows a net of {cells_along} cells along x, {cells_across} along y."),
    )

    def run(self, progress: Progress) -> Outcome:
        from ..develop.assembly import Assembly
        from ..develop.placing import Hold
        from ..form.persistent_names import faces_again, found_again
        from ..form.persistent_points import points_again
        from ..reliefs.cut_where_needed import develop_cut

        known = self.remembered or {}
        picked, said = faces_again(self.form, self.faces, known)
        if picked is None:
            picked = tuple(face.number for face in self.form.faces)
        cuts, straight, long = (
            found_again(self.form, getattr(self, name), known.get(name, ""), "edge")
            for name in ("cuts", "straight", "long")
        )
        said = (*said, *cuts[1], *straight[1], *long[1])
        held = None
        if self.hold is not None:
            (held,), moved = points_again(self.form, [self.hold], known.get("hold", ""))
            said = (*said, *moved)
        hold = Hold(held, None if self.along is None else np.array(self.along))
        assembly = Assembly(
            cuts=cuts[0],
            apart=self.apart == "apart",
            tab=self.tab,
            tab_angle=self.tab_angle,
            labelled=self.marks == "numbers",
            reliefs=self._reliefs(),
            keeps=self.keeps,
            ratio=self.ratio,
            straight=straight[0],
            long=long[0],
            layer=self.layer,
            thickness=self.thickness,
            k_factor=k_factor_of(self.material),
            within=self._within(),
        )

        def laid(triangles: float | None, part: Progress) -> Blank:
            return develop_cut(self.form, picked, self.way, hold, self.seam, triangles, part, assembly, self.limit)

        coarse = self._coarse(picked)
        if coarse is not None:  # it will take a while: something to look at first, and how long it will be
            begin = time.perf_counter()
            first = laid(coarse, progress.part(0.0, 0.05))
            seconds = (time.perf_counter() - begin) * (coarse / self.triangles) ** 2.3
            progress.show(self._outcome(first, said))
            progress = progress.said(f"about {max(seconds, 1):.0f} s in all")
        return self._outcome(laid(self.triangles, progress), said)

    def _coarse(self, picked) -> float | None:
        """The size of triangles for a first look; None where the blank is soon there."""
        if self.triangles is None or self.way == "exact":
            return None
        count = triangle_count(self.form.area(picked), self.triangles)
        return float(self.triangles * np.sqrt(count / COARSE)) if SLOW < count <= MOST_TRIANGLES else None

    def _outcome(self, blank: Blank, said: tuple[str, ...]) -> Outcome:
        cells = tuple(None if count is None else round(count) for count in (self.cells_along, self.cells_across))
        blank = replace(blank.judged(self.material), cells=cells)
        return outcome(BlankResult(blank), messages=(*said, *blank.messages))

    def _within(self) -> tuple[float, float] | None:
        """The size that pieces keep to; one length that is given holds for both."""
        if self.wide is None and self.high is None:
            return None
        return self.wide or self.high, self.high or self.wide

    def _reliefs(self) -> tuple[Array, ...]:
        """The curves of the reliefs that are taken."""
        reliefs = self.reliefs or ()
        wrong = [n for n in self.taken if not 1 <= n <= len(reliefs)]
        if reliefs and wrong:
            raise Refused(f"There is no relief {wrong[0]}; there are {len(reliefs)}, so take some of those.")
        chosen = self.taken or range(1, len(reliefs) + 1)
        return tuple(reliefs[n - 1].points for n in chosen if reliefs)
