"""Make a transition in sheet: from one rectangle with rounded corners to another, each corner in flats."""

from __future__ import annotations

from typing import Any, ClassVar

from ..materials import k_factor_of
from ..parameters import choice, material, number, shares
from ..progress import Progress
from ..results.result import Outcome
from .hollow_block import THINNEST
from .registry import operation
from .sheet_outcome import sheet_outcome


@operation(
    "transition_in_sheet",
    title="Make a transition in sheet",
    stage="form>blank",
    group="Sheet parts",
    gives=("form", "blank"),
    takes="two rectangles with rounded corners or circles, how they stand to each other, a thickness",
    makes="a sheet part from the one to the other, its corners in flats with small bends, folded and flat",
    begins="make a transition in sheet from numbers",
)
class TransitionInSheet:
    thickness: Any = number("thickness", "mm", "of the sheet", low=THINNEST)
    material: Any = material("the material that must be able to take the bends")
    length: Any = number(200, "mm", "length of the lower profile, along x", above=0)
    width: Any = number(160, "mm", "width of the lower profile, along y", above=0)
    upper_length: Any = number(120, "mm", "length of the upper profile, along x", above=0)
    upper_width: Any = number(120, "mm", "width of the upper profile, along y", above=0)
    height: Any = number(150, "mm", "height of the upper profile above the lower", above=0)
    flats: Any = number(4, "", "how many flats each corner becomes", low=1, high=200)
    corner: Any = number(0, "mm", "radius of the lower corners", low=0, words="as large as goes")
    upper_corner: Any = number("", "mm", "radius of the upper corners", low=0, words="as large as goes")
    x: Any = number(0, "mm", "how far the upper profile is off the middle, along x")
    y: Any = number(0, "mm", "how far the upper profile is off the middle, along y")
    layer: Any = choice(
        "inside", {"inside": "the inside of the sheet", "outside": "its outside"}, "of which side the sizes are"
    )
    radius: Any = number("", "mm", "inside radius of the bends", low=0, words="a radius as large as it is thick")
    k: Any = number(
        "", "", "where in the sheet the length is kept, from its inside", low=0, high=1, words="of the material"
    )
    stage: Any = number(1, "", "how far it is folded: 0 is the flat, 1 the part", low=0, high=1)
    bends: Any = shares("none by itself", "bends, by their numbers, that are folded only so far when the part is")

    slides: ClassVar[str] = "stage"
    """The value that runs from the flat, 0, to the folded part, 1."""
    sentence = (
        "Run sheet of {thickness} from {length} by {width} to {upper_length} by {upper_width}, {height} above it, each "
        "corner in {flats} flats."
    )
    clauses = (
        ("corners", "Corners have the radius {corner} below, {upper_corner} above."),
        ("off the middle", "The upper profile is off the middle by {x}, {y}."),
        ("sides of the sheet", "The sizes are those of {layer}."),
        ("bends", "It is of {material}, its bends have {radius}, K {k}."),
        ("folded so far", "It is folded to the stage {stage}."),
        ("bends by themselves", "Of its bends, {bends} only so far."),
    )

    def run(self, progress: Progress) -> Outcome:
        import numpy as np

        from ..sheet.allowance import ByK
        from ..sheet.transition import Profile, stepped_transition

        factor = k_factor_of(self.material) if self.k is None else self.k
        made = stepped_transition(
            Profile(self.length, self.width, self.corner),
            Profile(self.upper_length, self.upper_width, self.upper_corner),
            self.height,
            np.array([self.x, self.y]),
            self.thickness,
            round(self.flats),
            self.thickness if self.radius is None else self.radius,
            ByK(factor),
            self.layer == "outside",
        )
        name, rule = "transition", f"K {factor:g}"
        return sheet_outcome(made, name, self.stage, self.bends, self.material, rule, factor, progress.part(0.3, 1.0))
