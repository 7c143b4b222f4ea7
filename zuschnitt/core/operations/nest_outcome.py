"""What rows that lay parts on sheets give: a nest, found or laid by hand, and what is wrong with it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from ..progress import Progress
from ..results.nest import NestResult
from ..results.result import Outcome, outcome
from ..wording import counted

if TYPE_CHECKING:
    from ..nesting.part import Part, Placed
    from ..nesting.sheet import NestedSheet, Nesting


def searched(
    begun: Nesting, parts: Sequence[Part], progress: Progress, fixed: Sequence[tuple[int, Placed]] = ()
) -> Outcome:
    """``parts`` laid on sheets as ``begun`` says how, round what is ``fixed``; the best so far is shown, and stays."""
    from ..nesting.packing import nested

    def made(sheets: Sequence[NestedSheet], left: Sequence[Part], so_far: bool) -> Outcome:
        return nest_outcome(replace(begun, sheets=tuple(sheets), left=tuple(left)), so_far)

    def show(sheets: list[NestedSheet], left: list[Part]) -> None:
        progress.show(made(sheets, left, True), enough=True)

    return made(*nested(parts, begun.sizes, begun.how, progress, fixed, show), False)


def nest_outcome(made: Nesting, so_far: bool = False) -> Outcome:
    """A nest, the end of a search or the best ``so_far``, with what is to be said of parts left over or laid wrong."""
    said = []
    if made.left:
        names = dict.fromkeys(part.name for part in made.left)
        where = "are not laid yet" if so_far else "fit on no sheet"
        said.append(f"{counted(len(made.left), 'part')} ({', '.join(names)}) {where}.")
    for k, each in made.wrong:
        parts = [made.sheets[k].parts[i].part for i in each]
        labels = [f"{part.label} {part.copy}" for part in parts]
        why = "lie too near each other" if len(each) > 1 else "lies too near the edge"
        said.append(f"On sheet {k + 1}, {' and '.join(labels)} {why}; move {'one of them' if len(each) > 1 else 'it'}.")
    return outcome(NestResult(made), messages=said)
