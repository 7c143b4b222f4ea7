"""Print: the blank in true size on pages of paper."""

from __future__ import annotations

from typing import Any

from ..parameters import choice, number, source, sources
from ..progress import Progress
from ..results.pages import PagesResult
from ..results.result import Outcome, outcome
from ..shop.cut_drawing import drawing
from ..shop.papers import PAPERS
from ..wording import counted
from .registry import operation


@operation(
    "print_pages",
    title="Print in true size",
    stage="blank",
    group="Cut out",
    gives="pages",
    takes="a blank and what is marked on it",
    makes="pages with marks to join them by, to write as PDF",
)
class PrintPages:
    blank: Any = source("blank", hint="the blank that is printed")
    marks: Any = sources("artwork", "traced", of="blank", hint="what is marked on it")
    paper: Any = choice("a4", {key: paper[0] for key, paper in PAPERS.items()}, "the paper in the printer")
    shown: Any = choice(
        "lines",
        {"lines": "lines only", "stretch": "the map of its stretch", "compression": "the map of its compression"},
        "what is printed below the lines",
    )
    overlap: Any = number(10, "mm", "what neighbouring pages show alike", low=0, high=100)
    scale: Any = number(1, "", "how many times as large as it is", above=0)

    sentence = "Print {blank} on {paper} at a scale of {scale}, with {marks} and {shown}, {overlap} overlapping."

    def run(self, progress: Progress) -> Outcome:
        from ..shop.pages import paged

        contours = drawing(self.blank, self.marks)
        made = paged(self.blank, contours, self.paper, self.overlap, self.scale, self.shown)
        return outcome(PagesResult(made), brief=f"{counted(len(made.pages), 'page')} · {PAPERS[self.paper][0]}")
