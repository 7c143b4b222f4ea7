"""What a row gives that makes a sheet part: the folded body, and the flat that knows it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from ..materials import Material
from ..progress import Progress
from ..results.blank import BlankResult
from ..results.result import Outcome
from ..results.sheet import SheetResult

if TYPE_CHECKING:
    from ..sheet.making import Made


def sheet_outcome(
    made: Made,
    name: str,
    stage: float,
    shares: Mapping[int, float],
    material: Material | None,
    rule: str,
    factor: float | None,
    progress: Progress,
    dies: Sequence[float] = (),
) -> Outcome:
    """A part folded to a ``stage``, its bends by their numbers only as far as ``shares`` say.

    ``rule`` says in words what a bend takes, ``factor`` is the K-factor where one was asked for. ``dies``
    are the openings there are, in mm, typical ones where none are named.
    """
    from ..sheet.body import folded_body
    from ..sheet.part import folded_apart
    from ..sheet.pattern import sheet_blank
    from ..sheet.verdicts import DIES, verdicts

    shown = folded_apart(made.part, shares)
    folded = folded_body(shown, stage, name)
    blank = sheet_blank(shown, folded, stage, progress).judged(None)
    passed = made.passed
    judged = verdicts(made.part, material, passed, dies or DIES)
    through = tuple(each.words(made.part) for each in passed)
    result = SheetResult(folded, replace(made, part=shown), judged, rule, stage, factor, through)
    said = made.messages
    if through:
        said = (*said, result.passes)
    return Outcome((result, BlankResult(blank)), result.figures(), said, result.brief())
