"""Make a sheet part: a solid becomes walls and bends, folded and flat."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, Any, ClassVar

import numpy as np

from ..errors import CannotBeDone, Refused, Remedy
from ..form.glimpse import Glimpse
from ..materials import k_factor_of
from ..parameters import (
    choice,
    file_for,
    flanges,
    material,
    number,
    numbers,
    picked_corners,
    seams,
    shares,
    some_faces,
    source,
)
from ..parameters.seams import AUTO
from ..progress import Progress
from ..results.result import Outcome
from .registry import operation
from .sheet_outcome import sheet_outcome

if TYPE_CHECKING:
    from ..parameters.flanges import WrittenFlange
    from ..sheet.allowance import Rule
    from ..sheet.flanges import Flange
    from ..sheet.making import Made, SheetPlan


@operation(
    "make_sheet",
    title="Make a sheet part",
    stage="form>blank",
    group="Sheet parts",
    gives=("form", "blank", "beside"),
    takes="a solid with walls of one thickness",
    makes="a sheet part: its walls and bends, folded, and the flat with its bend lines",
)
class MakeSheet:
    form: Any = source("form", hint="the solid that becomes a sheet part")
    material: Any = material("the material that must be able to take the bends")
    side: Any = some_faces("the larger side", "a face of the side that is followed")
    opposite: Any = choice("no", {"no": "that side", "yes": "the side opposite"}, "which of both sides is followed")
    without: Any = some_faces("no faces", "faces that are left out")
    rounds: Any = choice(
        "as-bends",
        {"as-bends": "bends", "as-they-are": "rolled walls as they are", "sharp": "sharp corners, bent anew"},
        "what becomes of rounds",
    )
    radius: Any = number(
        "", "mm", "inside radius of sharp corners that are bent", low=0, words="a radius as large as it is thick"
    )
    rule: Any = choice(
        "k", {"k": "a K-factor", "din": "DIN 6935", "table": "a bend table"}, "how much of the flat a bend takes"
    )
    k: Any = number(
        "", "", "where in the sheet the length is kept, from its inside", low=0, high=1, words="of the material"
    )
    table: Any = file_for(
        ".csv",
        wanted=("rule", "table"),
        words="no table",
        hint="columns material, thickness, radius, angle, allowance",
    )
    opened: Any = seams("", "no edges", "edges that are opened, so that it can be laid flat; auto chooses them")
    grain: Any = number(
        "", "°", "direction of the grain on the flat, from its x axis",
        words="no direction that matters",
    )  # fmt: skip
    gap: Any = number(0, "mm", "between open corners", low=0)
    corners: Any = choice(
        "closed",
        {
            "closed": "with their inner edges together",
            "half-open": "the one over half of the other's edge",
            "overlapping": "the one over all of the other's edge",
        },
        "how walls meet at open corners",
    )
    relief: Any = choice(
        "none", {"none": "nothing", "square": "a square", "round": "a circle"}, "what is cut out where two bends meet"
    )
    relief_size: Any = number("", "mm", "side or diameter of the reliefs", above=0, words="as large as clears both")
    flanges: Any = flanges("no flanges", "walls bent up at free edges")
    rounding: Any = number(0, "mm", "radius of outer corners, or how much of their sides is cut off", low=0)
    corner_shape: Any = choice("round", {"round": "rounded", "cut-off": "cut off"}, "what becomes of outer corners")
    rounded_at: Any = picked_corners("all of them", "outer corners of the flat, by a point of each")
    dies: Any = numbers("typical ones", "openings of the V dies there are")
    steps: Any = number(0, "", "how many flats each large bend becomes; 0 to roll it", low=0, high=200)
    over: Any = number(50, "mm", "inside radius from which on a bend is large", low=0)
    small: Any = number("", "mm", "inside radius of the bends between the flats", low=0, words="the same radius")
    flats: Any = choice(
        "inside",
        {"inside": "with corners on the arc", "middle": "half in and half out", "outside": "outside of the arc"},
        "where the flats of a large bend lie",
    )
    stage: Any = number(1, "", "how far it is folded: 0 is the flat, 1 the part", low=0, high=1)
    bends: Any = shares("none by itself", "bends, by their numbers, that are folded only so far when the part is")
    stays: Any = some_faces("its largest wall", "a face of the wall that stays in its place")

    slides: ClassVar[str] = "stage"
    """The value that runs from the flat, 0, to the folded part, 1."""
    sentence = "Make {form} a sheet part of {material}, opened along {opened}, its sharp corners bent with {radius}."
    clauses = (
        ("side", "It follows {side}: {opposite}."),
        ("faces left out", "Left out are {without}."),
        ("rounds", "Rounds become {rounds}."),
        ("allowance of bends", "A bend takes what {rule} says: K {k}, {table}."),
        ("grain", "Its grain runs at {grain}."),
        ("open corners", "Open corners meet {corners}, {gap} apart."),
        ("corner reliefs", "Where two bends meet, {relief} is cut out, {relief_size}."),
        ("flanges", "It has flanges: {flanges}."),
        ("rounded corners", "Outer corners, {rounded_at}, are {corner_shape} by {rounding}."),
        ("dies", "Dies are {dies}."),
        ("large bends in steps", "Bends over {over} become {steps} flats, {flats}, with {small} between."),
        ("folded so far", "It is folded to the stage {stage}."),
        ("bends by themselves", "Of its bends, {bends} only so far."),
        ("wall that stays", "In its place stays {stays}."),
    )

    def run(self, progress: Progress) -> Outcome:
        from ..sheet.making import sheet_part

        if any(die <= 0 for die in self.dies):
            raise Refused("A die's opening must be above 0; change it.")

        try:
            made = sheet_part(self.form, self._plan(), progress.part(0.0, 0.5))
        except CannotBeDone as error:
            if error.edges:
                error.remedies = (
                    self._open(error.edges, "open these edges"),
                    Remedy("have them chosen", {"opened": AUTO}),
                )
            raise
        factor = self._factor if self.rule == "k" else None
        found = sheet_outcome(
            made, self.form.name, self.stage, self.bends, self.material, self._rule_words(), factor,
            progress.part(0.6, 0.9), self.dies,
        )  # fmt: skip
        if made.left_out:
            progress.step(0.9, "what is left beside it")
            found = self._with_beside(found, made)
        if self.opened == AUTO and made.seams:  # what was chosen can be changed from there, edge by edge
            change = self._open([seam.edge for seam in made.seams], "write these edges down, to change them")
            found = replace(found, remedies=(change,))
        return found

    def _with_beside(self, found: Outcome, made: Made) -> Outcome:
        """With what of the solid does not belong to the part. Where that becomes no body, it is said."""
        from ..results.beside import BesideResult
        from ..sheet.body import folded_body
        from ..solids.bodies import form_of_bodies
        from ..solids.left_beside import left_beside

        try:
            left = left_beside(self.form, made.left_out, folded_body(made.part))
        except CannotBeDone as error:
            return replace(found, messages=(*found.messages, f"It becomes no solid of its own: {error.sentence}"))
        if not left:
            said = "Nothing of it stands beside the sheet, which is whole there."
            return replace(found, messages=(*found.messages, said))
        bodies = tuple(body for body, _ in left)
        result = BesideResult(bodies, form_of_bodies(bodies, "left beside"), tuple(faces for _, faces in left))
        return replace(found, results=(*found.results, result), figures=(*found.figures, *result.figures()))

    def glimpse(self) -> Glimpse:
        """The folded part while a value moves, its corners neither relieved nor rounded."""
        from ..sheet.glimpse import glimpse
        from ..sheet.making import rough_part
        from ..sheet.part import folded_apart

        return glimpse(folded_apart(rough_part(self.form, self._plan()), self.bends), self.stage)

    def _open(self, edges: Sequence[int], words: str) -> Remedy:
        """Opens edges beside those that are opened already."""
        known = () if self.opened == AUTO else self.opened
        return Remedy(words, {"opened": ", ".join(map(str, sorted({*known, *edges})))})

    def _plan(self) -> SheetPlan:
        from ..sheet.corners import Relief
        from ..sheet.making import SheetPlan
        from ..sheet.stepping import Steps

        return SheetPlan(
            side=self.side[0] if self.side else 0,
            other_side=self.opposite == "yes",
            without=self.without,
            rounds=self.rounds,
            radius=self.radius,
            rule=self._rule(),
            opened=self.opened,
            gap=self.gap,
            grain=self._grain,
            corners=self.corners,
            stays=self.stays[0] if self.stays else 0,
            flanges=tuple(map(_flange, self.flanges)),
            relief=Relief(self.relief, self.relief_size),
            rounding=self.rounding,
            cut_off=self.corner_shape == "cut-off",
            rounded_at=self.rounded_at,
            steps=Steps(round(self.steps), self.over, self.flats, self.small) if self.steps else None,
        )

    @property
    def _grain(self) -> float | None:
        """Of a material whose grain matters it runs along x unless it is said otherwise."""
        if self.grain is not None:
            return float(np.radians(self.grain))
        return 0.0 if self.material and self.material.grain else None

    @property
    def _factor(self) -> float:
        return k_factor_of(self.material) if self.k is None else float(self.k)

    def _rule(self) -> Rule:
        from ..errors import Lacking
        from ..sheet.allowance import ByDin, ByK, bend_table

        if self.rule == "din":
            return ByDin()
        if self.rule == "k":
            return ByK(self._factor)
        if self.table is None:
            raise Lacking("The bends wait for a bend table; bring one in, or take a K-factor.")
        return bend_table(self.table.content, self.table.name, self.material.name if self.material else "")

    def _rule_words(self) -> str:
        return {"k": f"K {self._factor:g}", "din": "DIN 6935"}.get(self.rule, "by the table")


def _flange(written: WrittenFlange) -> Flange:
    from ..sheet.flanges import Flange

    angle, then = float(np.radians(written.angle)), tuple(map(_flange, written.then))
    return Flange(
        written.edges, written.length, angle, written.radius, written.inwards, written.setback, then, written.measure
    )
