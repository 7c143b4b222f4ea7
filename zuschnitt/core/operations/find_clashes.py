"""Find clashes: bodies of two forms that lie in each other."""

from __future__ import annotations

from typing import Any

from ..parameters import source
from ..progress import Progress
from ..results.clashes import ClashesResult
from ..results.result import Outcome, outcome
from .registry import operation


@operation(
    "find_clashes",
    title="Find clashes",
    stage="form",
    group="Bodies",
    gives="clashes",
    takes="two forms",
    makes="where they lie in each other, or how far apart they are",
)
class FindClashes:
    one: Any = source("form", hint="the one form")
    other: Any = source("form", hint="the other form")

    sentence = "Look whether {one} clashes with {other}."

    def run(self, progress: Progress) -> Outcome:
        from ..solids.clashing import clashes

        found = clashes(self.one, self.other, progress)
        return outcome(ClashesResult(found), messages=found.messages)
