"""Compare: the same faces developed in several ways, side by side."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..progress import Progress
from ..wording import percent
from .registry import Figure, Outcome, choice, operation, origin, source

WAYS = {"relaxed": "relaxed", "exact": "exact", "parametric": "parametric", "even": "parametric, evenly spaced"}


@operation(
    "compare",
    title="Compare ways",
    stage="form>blank",
    group="Develop",
    gives="compared",
    takes="a blank, the ways to set beside each other",
    makes="its faces in each way with areas, stretch and test circles, to choose from",
)
@dataclass(frozen=True)
class Compare:
    blank: Any = source("blank", hint="the blank whose faces are compared, and whose row takes the way you choose")
    form: Any = origin("blank", "form")
    first: Any = choice("relaxed", WAYS, "the first way")
    second: Any = choice("even", WAYS, "the second way")
    third: Any = choice("parametric", {**WAYS, "none": "no third way"}, "the third way")

    sentence = "Compare {blank}: {first}, {second}, {third}."

    def run(self, progress: Progress) -> Outcome:
        from ..develop.comparing import compare

        ways = list(dict.fromkeys(w for w in (self.first, self.second, self.third) if w != "none"))
        compared = compare(self.form, self.blank, ways, progress)
        figures = tuple(
            Figure(
                each.way, f"{percent(each.area_change)} area, {percent(each.stretch_max)} / {percent(each.stretch_min)}"
            )
            for each in compared
            if each.blank is not None
        )
        refused = tuple(each.refusal for each in compared if each.refusal)
        return Outcome("compared", compared, figures, refused, " · ".join(each.way for each in compared))
