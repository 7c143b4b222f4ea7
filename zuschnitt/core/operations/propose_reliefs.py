"""Propose reliefs: where to cut so that a blank comes under a chosen stretch."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from ..parameters import number, optional_source, origin, source
from ..progress import Progress
from ..results.reliefs import ReliefsResult
from ..results.result import Figure, Outcome, outcome
from ..wording import Fault, counted
from .registry import operation

if TYPE_CHECKING:
    from ..reliefs.proposal import Proposal


@operation(
    "propose_reliefs",
    title="Propose reliefs",
    stage="form",
    group="Develop",
    gives="reliefs",
    takes="a relaxed blank, the stretch it may have",
    makes="the cuts that bring it there, each with its gain",
)
class ProposeReliefs:
    blank: Any = source("blank", hint="the blank that stretches too much, developed without reliefs")
    form: Any = origin("blank", "form")
    target: Any = number(2, "%", "the stretch or compression to come under", above=0)
    others: Any = optional_source(
        "reliefs", words="none yet", hint="the reliefs that the blank opens at already", on="form"
    )
    most: Any = number(8, "", "how many cuts at the most", low=1, high=16)

    sentence = "Propose reliefs that bring {blank} under {target}, with {most} cuts at the most."
    clauses = (("besides other reliefs", "It opens at {others} already, which stay."),)

    def run(self, progress: Progress) -> Outcome:
        from ..reliefs.proposing import propose

        found = propose(self.form, self.blank, self.target, round(self.most), progress)
        nothing = "nothing needed" if found.uncut <= self.target else "none found"
        more = (
            Figure("without cuts", f"{found.uncut:.2f} %"),
            Figure("with them", f"{found.reached:.2f} %"),
            Figure("each gains", ", ".join(f"{r.gain:.2f} %" for r in found.reliefs) or nothing, "form"),
        )
        brief = f"{counted(len(found.reliefs), 'relief')} · {found.uncut:.2f} % → {found.reached:.2f} %"
        given = (*(self.others or ()), *found.reliefs)
        return outcome(ReliefsResult(given), messages=self._said(found), more=more, brief=brief)

    def _said(self, found: Proposal) -> list[str]:
        """What was proposed, and how far it leads."""
        if not found.reliefs:
            if found.uncut <= self.target:
                return [
                    f"It needs no relief to stay under {self.target:g} %; it stretches by {found.uncut:.2f} % at most."
                ]
            return [
                Fault(
                    f"It stretches by {found.uncut:.2f} %, and no relief was found that brings it nearer to "
                    f"{self.target:g} %; draw some of your own, or develop fewer faces together."
                )
            ]
        gains = ", ".join(f"{relief.gain:.2f} %" for relief in found.reliefs)
        said = [
            f"{counted(len(found.reliefs), 'relief')}, {found.length:.0f} mm to cut: {found.uncut:.2f} % without, "
            f"{found.reached:.2f} % with; each gains {gains}."
        ]
        if found.reached > self.target:
            fewer = len(found.reliefs) < round(self.most)
            advice = "draw further ones, as more were found to be of no use" if fewer else "allow more cuts"
            said.append(Fault(f"That is not yet under {self.target:g} %; {advice}, or develop fewer faces together."))
        return said
