"""Compare: the same faces developed in several ways, side by side."""

from __future__ import annotations

from typing import Any

from ..develop.compared import WAYS
from ..parameters import choice, origin, source
from ..progress import Progress
from ..results.compared import ComparedResult
from ..results.result import Outcome, outcome
from .registry import operation


@operation(
    "compare",
    title="Compare ways",
    stage="form>blank",
    group="Develop",
    gives="compared",
    takes="a blank, the ways to set beside each other",
    makes="its faces in each way with areas, stretch and test circles, to choose from",
)
class Compare:
    blank: Any = source("blank", hint="the blank whose faces are compared, and whose row takes the way you choose")
    form: Any = origin("blank", "form")
    first: Any = choice("relaxed", WAYS, "the first way")
    second: Any = choice("even", WAYS, "the second way")
    third: Any = choice("parametric", {**WAYS, "none": "no third way"}, "the third way")

    fourth: Any = choice("none", {**WAYS, "none": "no fourth way"}, "the fourth way")

    sentence = "Compare {blank}: {first}, {second}, {third}."
    clauses = (("one way more", "Also {fourth}."),)

    def run(self, progress: Progress) -> Outcome:
        from ..develop.comparing import compare

        ways = list(dict.fromkeys(w for w in (self.first, self.second, self.third, self.fourth) if w != "none"))
        compared = compare(self.form, self.blank, ways, progress)
        return outcome(ComparedResult(compared), messages=[each.refusal for each in compared if each.refusal])
