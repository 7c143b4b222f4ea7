"""Raise: closed outlines on a blank become material on its form, or are sunk into it."""

from __future__ import annotations

from typing import Any

from ..form.glimpse import Glimpse
from ..parameters import number, origin, source
from ..progress import Progress
from ..results.result import Outcome, outcome
from .body_outcome import changed
from .registry import operation


@operation(
    "raise_artwork",
    title="Raise or sink",
    stage="blank>form",
    group="Bodies",
    gives="form",
    takes="closed outlines on a blank, a height",
    makes="the body with the outlines raised, or sunk; of open faces the pieces themselves",
)
class RaiseArtwork:
    artwork: Any = source("artwork", hint="the outlines; what lies within another one alternates")
    blank: Any = origin("artwork", "blank")
    form: Any = origin("artwork", "form")
    by: Any = number(2, "mm", "the height, square to the surface; negative to sink")
    draft: Any = number(0, "°", "how far the walls are drawn in", low=0, high=80)
    round: Any = number(0, "mm", "the radius of the edges at the free end; 0 for none", low=0)

    sentence = "Raise {artwork} from the form by {by}."
    clauses = (
        ("walls drawn in", "Its walls are drawn in by {draft}."),
        ("edges rounded", "Its edges have radius {round}."),
    )

    def glimpse(self) -> Glimpse:
        """While it moves: its walls upright, its edges sharp."""
        from ..solids.glimpses import raised_glimpse

        return raised_glimpse(self.form, self.blank, self.artwork.contours, self.by)

    def run(self, progress: Progress) -> Outcome:
        from ..solids.raising import raised

        drawing = self.artwork.contours
        found = raised(self.form, self.blank, drawing, self.by, self.draft, self.round, progress.part(0, 0.8))
        progress.step(0.8, "reading faces")
        return outcome(changed(self.form, found.made, self.form.name), messages=found.messages)
