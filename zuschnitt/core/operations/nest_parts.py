"""Nest: the parts of cut files laid on sheets of the material."""

from __future__ import annotations

from typing import Any

from ..errors import CannotBeDone, Refused
from ..parameters import NONE, choice, names_of, number, numbers, rows, sheets
from ..progress import Progress
from ..results.result import Outcome
from .nest_outcome import searched
from .registry import operation

MOST = 10_000


@operation(
    "nest_parts",
    title="Nest",
    stage="blank",
    group="Cut out",
    gives="nest",
    takes="cut files or blanks, the sizes of the sheets",
    makes="their parts laid on sheets, with yield and offcuts",
)
class NestParts:
    parts: Any = rows("drawing", "blank", hint="the cut files or blanks whose parts are laid")
    names: Any = names_of("parts")
    counts: Any = numbers("one", "how many of each, one number for all or one for each row")
    sheets: Any = sheets("1500 x 1000", "the sheets: each is taken once, the last as often as it is needed")
    gap: Any = number(4, "mm", "between parts", low=0)
    margin: Any = number(5, "mm", "free at the sheet's edge", low=0)
    grain: Any = choice(
        "free",
        {"free": "turned as it comes", "along": "with the grain", "across": "across the grain"},
        "how parts may be turned; the grain runs along the sheet's width",
    )
    seconds: Any = number(5, "", "seconds of search; stopped earlier, the best so far stays", above=0, high=86_400)
    offcuts: Any = rows("nest", default=NONE, hint="nests whose offcuts are used first")
    price: Any = number(0, "", "what a square metre of the sheets costs", low=0)

    sentence = "Lay the parts of {parts}, {counts} of each, on sheets of {sheets}, {gap} apart, {margin} from the edge."
    clauses = (
        ("grain", "Parts lie {grain}."),
        ("search", "Search for {seconds} s."),
        ("offcuts first", "Offcuts of {offcuts} are used first."),
        ("the cost", "A square metre costs {price}."),
    )

    def run(self, progress: Progress) -> Outcome:
        from ..nesting.sheet import Nest, Nesting

        how = Nest(self.gap, self.margin, self.grain, max(1, round(self.seconds)))
        kept = [size for nest in self.offcuts for size in nest.offcuts if min(size) > 2 * self.margin]
        begun = Nesting((), (), how, (*kept, *self.sheets), self.price)
        made = searched(begun, self._parts(), progress)
        if not made.value.sheets:
            raise CannotBeDone("No part fits on these sheets; name a larger one, or let parts turn freely.")
        return made

    def _parts(self) -> list[Any]:
        from ..develop.blank import Blank
        from ..nesting.part import copies, parts_of
        from ..shop.cut_drawing import drawing

        counts = self.counts or (1.0,)
        if len(counts) not in (1, len(self.parts)):
            raise Refused(f"There are {len(counts)} counts for {len(self.parts)} cut files; give one, or one for each.")
        if any(count != int(count) or not 1 <= count <= MOST for count in counts):
            raise Refused(f"Counts must be whole numbers from 1 to {MOST:,}; change them.")
        found: list[Any] = []
        for k, (given, name) in enumerate(zip(self.parts, self.names, strict=True)):
            contours = drawing(given, ()) if isinstance(given, Blank) else given
            for part in parts_of(contours, name):
                found.extend([part] * int(counts[k % len(counts)]))
        if len(found) > MOST:
            raise Refused(f"{len(found):,} parts are too many; lay at most {MOST:,} at a time.")
        return copies(found)
