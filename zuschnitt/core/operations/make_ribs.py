"""Ribs: a form as interlocking plates in two directions."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

import numpy as np

from ..errors import Refused
from ..parameters import choice, direction, number, numbers, optional_number, optional_source, point, source
from ..progress import Progress
from ..results.drawing import DrawingResult
from ..results.result import Outcome, Remedy, outcome
from ..results.ribs import RibsResult
from .registry import operation

if TYPE_CHECKING:
    from ..geometry.curves import Array
    from ..ribs.fans import Fan, SquareToCurve
    from ..ribs.planes import Family, Spread
    from ..ribs.rib import Making
    from ..ribs.ribs import Ribs


@operation(
    "make_ribs",
    title="Ribs",
    stage="form>blank",
    group="Ribs",
    gives=("ribs", "drawing"),
    takes="a form, the spacing and thickness of plates",
    makes="ribs slotted into each other, and all of them laid out flat",
)
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
    stand: Any = choice(
        "parallel",
        {"parallel": "side by side", "fan": "in a fan round an axis", "curve": "square to a curve"},
        "how the first family stands",
    )
    centre: Any = point("its middle", "a point of the axis round which a fan stands; it runs as the second direction")
    first_angle: Any = number(0, "°", "angle of the first rib of a fan")
    curve: Any = optional_source("curves", words="no curve", hint="the curve that ribs of the first family stand on")
    base: Any = number("", "mm", "height of a base plate, on which the ribs stand", words="no base plate")
    rods: Any = number(0, "mm", "diameter of round rods in place of the second family; 0 for none", low=0)
    relieved: Any = choice(
        "none",
        {"none": "as they are", "bone": "rounded out on the diagonal", "tee": "rounded out to the side"},
        "inner corners of slots, for a round tool",
    )
    tool: Any = number(3, "mm", "diameter of the round tool", above=0)
    density: Any = number("", "g/cm³", "what the plates weigh", above=0, words="not weighed")
    lighten: Any = number(0, "mm", "material that stays round holes that make ribs lighter; 0 for no holes", low=0)
    laid: Any = choice(
        "both",
        {"both": "of both families", "first": "of the first family", "second": "of the second family"},
        "which pieces are laid out flat",
    )

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
        ("a fan or a curve", "The first family stands {stand}, round {centre} from {first_angle}, or on {curve}."),
        ("a base plate", "They stand on a plate at {base}."),
        ("rods", "Rods of {rods} stand in for the second family."),
        ("corners of slots", "Inner corners are {relieved}, for a tool of {tool}."),
        ("weight", "The plates weigh {density}."),
        ("what is laid out", "Laid out are the pieces {laid}."),
    )

    def run(self, progress: Progress) -> Outcome:
        from ..ribs.base_plate import on_a_base
        from ..ribs.layout import laid_out
        from ..ribs.lightening import lightened
        from ..ribs.planes import Family, family
        from ..ribs.rib import Making
        from ..ribs.ribs import interlocking
        from ..ribs.rods import on_rods
        from ..ribs.slots import Tool

        if self.base is not None and self.stand != "parallel":
            raise Refused("A base plate carries ribs that stand side by side; leave it out, or let them stand so.")
        if self.base is not None and self.rods:
            raise Refused("Ribs on rods need no base plate; leave one of them out.")
        if self.rods and self.laid == "second":
            raise Refused("Rods stand in for the second family, so it has no pieces; lay out those of the first.")
        if self.rods and self.stand != "parallel":
            raise Refused("Rods run through ribs that stand side by side; leave them out, or let the ribs stand so.")
        how = Making(self.thickness, self.fit, self.outline, self.halves, self.floor, self.band, self.base,
                     Tool(self.relieved, self.tool))  # fmt: skip
        across, other = (np.array(way or default) for way, default in
                         ((self.across, (1.0, 0.0, 0.0)), (self.other, (0.0, 1.0, 0.0))))  # fmt: skip
        part = progress.part(0, 0.9)
        remedies: tuple[Remedy, ...] = ()
        if self.rods:
            ribs = family(self.form, "X", across, self._spread("x"), self.thickness)
            found = on_rods(self.form, ribs, other, self.y or 50.0, self.rods, how, part)
        else:
            second = family(self.form, "Y", other, self._spread("y"), self.thickness)
            first = self._first(across, other)
            found = interlocking(self.form, first, second, how, part)
            if not found.sound and isinstance(first, Family):
                remedies = self._remedies(found, (first, second), how, progress.part(0.9, 1))
        if self.lighten:
            found = replace(found, ribs=tuple(lightened(rib, self.lighten) for rib in found.ribs))
        if self.base is not None:
            found = on_a_base(found, "X", self.base, how)
        found = replace(found, density=self.density, laid={"first": "X", "second": "Y"}.get(self.laid, "both"))
        made = outcome(RibsResult(found), DrawingResult(laid_out(found)), messages=found.messages)
        return replace(made, remedies=remedies)

    def _remedies(
        self, found: Ribs, families: tuple[Family, Family], how: Making, progress: Progress
    ) -> tuple[Remedy, ...]:
        """What would help ribs that hold poorly, as other values of this row."""
        from ..ribs.advising import advice
        from ..ribs.ribs import interlocking

        progress.step(0.0, "looking for what would help")
        rough = replace(how, roughly=True)
        return tuple(
            Remedy(each.words, {f"list_{each.letter.lower()}": ", ".join(f"{at:g}" for at in each.places)})
            for each in advice(found, families, lambda pair: interlocking(self.form, *pair, rough))
        )

    def _spread(self, axis: str) -> Spread:
        from ..ribs.planes import Spread

        spacing, start, count, listed = (
            getattr(self, name) for name in (axis, f"start_{axis}", f"count_{axis}", f"list_{axis}")
        )
        return Spread(spacing, start, None if count is None else round(count), listed)

    def _first(self, across: Array, other: Array) -> Family | Fan | SquareToCurve:
        """The planes of the first family."""
        from ..ribs.fans import fan, square_to_curve
        from ..ribs.planes import family

        if self.stand == "fan":
            if self.count_x is None:
                raise Refused("A fan has a number of ribs; say how many (--count-x).")
            points = np.vstack([mesh.points for mesh in self.form.meshes])
            centre = (points.min(axis=0) + points.max(axis=0)) / 2 if self.centre is None else np.array(self.centre)
            return fan("X", centre, other, round(self.count_x), self.first_angle, self.thickness, self.fit)
        if self.stand == "curve":
            if self.curve is None:
                raise Refused("Ribs square to a curve need one; draw it, bring it in (--curve), or let them stand side "
                              "by side.")  # fmt: skip
            return square_to_curve("X", self.curve[0].points, other, self._spread("x"), self.thickness)
        return family(self.form, "X", across, self._spread("x"), self.thickness)
