"""Propose reliefs: where to cut so that a blank comes under a chosen stretch."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..progress import Progress
from ..wording import counted, length
from .registry import Figure, Outcome, number, operation, origin, source


@operation(
    "propose_reliefs",
    title="Propose reliefs",
    stage="form",
    group="Develop",
    gives="reliefs",
    takes="a relaxed blank, the stretch it may have",
    makes="the cuts that bring it there, each with its gain",
)
@dataclass(frozen=True)
class ProposeReliefs:
    blank: Any = source("blank", hint="the blank that stretches too much, developed without reliefs")
    form: Any = origin("blank", "form")
    target: Any = number(2, "%", "the stretch or compression to come under", above=0)
    most: Any = number(8, "", "how many cuts at the most", low=1, high=16)

    sentence = "Propose reliefs that bring {blank} under {target}, with {most} cuts at the most."

    def run(self, progress: Progress) -> Outcome:
        from ..develop.proposing import propose

        found = propose(self.form, self.blank, self.target, round(self.most), progress)
        nothing = "nothing needed" if found.uncut <= self.target else "none found"
        figures = (
            Figure("without cuts", f"{found.uncut:.2f} %"),
            Figure("with them", f"{found.reached:.2f} %"),
            Figure("to cut", length(found.length), "form"),
            Figure("each gains", ", ".join(f"{r.gain:.2f} %" for r in found.reliefs) or nothing, "form"),
        )
        messages: tuple[str, ...] = ()
        if found.reached > self.target:
            fewer = len(found.reliefs) < round(self.most)
            advice = "draw further ones, as more were found to be of no use" if fewer else "allow more cuts"
            messages = (
                f"With {counted(len(found.reliefs), 'cut')} it comes down to {found.reached:.2f} %, not to "
                f"{self.target:g} %; {advice}, or develop fewer faces together.",
            )
        brief = f"{counted(len(found.reliefs), 'relief')} · {found.uncut:.2f} % → {found.reached:.2f} %"
        return Outcome("reliefs", found.reliefs, figures, messages, brief)
