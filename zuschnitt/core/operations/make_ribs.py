"""Ribs: a form as interlocking plates in two directions."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..parameters import choice, direction, number, numbers, optional_number, source
from ..progress import Progress
from ..results.drawing import DrawingResult
from ..results.result import Outcome, outcome
from ..results.ribs import RibsResult
from .registry import operation


@operation(
    "make_ribs",
    title="Ribs",
    stage="form>blank",
    group="Ribs",
    gives=("ribs", "drawing"),
    takes="a form, the spacing and thickness of plates",
    makes="ribs slotted into each other, and all of them laid out flat",
)
@dataclass(frozen=True)
class RibsOfForm:
    form: Any = source("form", hint="the form that is made of ribs")
    x: Any = optional_number(
        50, "mm", "from rib to rib of the first family; empty where they are counted", above=0, words="as counted"
    )
    y: Any = optional_number(
        50, "mm", "from rib to rib of the second family; empty where they are counted", above=0, words="as counted"
    )
    thickness: Any = number("thickness", "mm", "of the plates", above=0)
    fit: Any = number(0, "mm", "by how much slots are wider than the plate, in all; may be negative")
    across: Any = direction("1, 0, 0", "the direction square to the first family")
    other: Any = direction("0, 1, 0", "the direction square to the second family")
    start_x: Any = number("", "mm", "place of the first rib of the first family", words="centred")
    start_y: Any = number("", "mm", "place of the first rib of the second family", words="centred")
    count_x: Any = number("", "", "how many ribs of the first family", low=1, high=400, words="as many as fit")
    count_y: Any = number("", "", "how many ribs of the second family", low=1, high=400, words="as many as fit")
    list_x: Any = numbers("evenly spread", "the places of the first family's ribs")
    list_y: Any = numbers("evenly spread", "the places of the second family's ribs")
    outline: Any = choice(
        "middle",
        {"middle": "in the middle of the plate", "inner": "inside of all of it", "outer": "outside of all of it"},
        "where the form cuts the plates",
    )
    halves: Any = choice("up", {"up": "upwards", "down": "downwards"}, "where the slots of the first family open")
    floor: Any = number("", "mm", "height down to which ribs of an open form reach", words="its lowest level")
    band: Any = number(0, "mm", "height of ribs that are a band below an open form; 0 for whole ones", low=0)
    lighten: Any = number(0, "mm", "material that stays round holes that make ribs lighter; 0 for no holes", low=0)

    sentence = "Make {form} of ribs {x} and {y} apart, {thickness} thick, with slots {fit} wider."
    clauses = (
        ("other directions", "They stand square to {across} and to {other}."),
        ("places", "The first ones stand at {start_x} and at {start_y}."),
        ("numbers", "There are {count_x} and {count_y} of them."),
        ("listed places", "They stand at {list_x} and at {list_y}."),
        ("outline", "The form is cut {outline}."),
        ("the floor", "Ribs of an open form reach down to {floor}, or are a band of {band}."),
        ("holes", "Holes make them lighter, with {lighten} left all round."),
        ("slots", "Slots of the first family open {halves}."),
    )

    def run(self, progress: Progress) -> Outcome:
        from ..ribs.layout import laid_out
        from ..ribs.lightening import lightened
        from ..ribs.planes import Spread, family
        from ..ribs.ribs import interlocking

        families = []
        for letter, way, default, spacing, start, count, listed in (
            ("X", self.across, (1.0, 0.0, 0.0), self.x, self.start_x, self.count_x, self.list_x),
            ("Y", self.other, (0.0, 1.0, 0.0), self.y, self.start_y, self.count_y, self.list_y),
        ):
            spread = Spread(spacing, start, None if count is None else round(count), listed)
            families.append(family(self.form, letter, np.array(way or default), spread, self.thickness))
        first, second = families
        found = interlocking(
            self.form,
            first,
            second,
            self.thickness,
            self.fit,
            self.outline,
            self.halves,
            progress.part(0, 0.9),
            self.floor,
            self.band,
        )
        if self.lighten:
            found = replace(found, ribs=tuple(lightened(rib, self.lighten) for rib in found.ribs))
        drawing = DrawingResult(laid_out(found))
        return outcome(RibsResult(found), drawing, messages=found.messages)
