"""Draw on the blank: figures by number, each placed from what is there."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from ..figures.figures_value import figures
from ..parameters import source
from ..progress import Progress
from ..results.artwork import ArtworkResult
from ..results.result import Outcome, outcome
from .registry import operation

if TYPE_CHECKING:
    from ..develop.blank import Blank
    from ..figures.figures_value import NumberedFigure
    from ..figures.ground import Ground
    from ..plane.artwork import Artwork


@operation(
    "draw_figures",
    title="Draw on the blank",
    stage="blank",
    group="Mark",
    gives="artwork",
    takes="a blank",
    makes="lines, circles, slots, text and what is made of them, by number",
)
class DrawFigures:
    blank: Any = source("blank", hint="the blank that is drawn on")
    figures: Any = figures(hint="what is drawn")

    sentence = "Draw on {blank}: {figures}."

    def run(self, progress: Progress) -> Outcome:
        from ..figures.ground import Ground

        artwork = as_artwork(self.figures, Ground.of_blank(self.blank))
        return outcome(ArtworkResult(artwork), messages=_outside(artwork, self.blank))


def as_artwork(figures: tuple[NumberedFigure, ...], ground: Ground) -> Artwork:
    """What is drawn, without the figures that others are made of."""
    from ..figures.drawn import drawn
    from ..plane.artwork import Artwork

    kept = [each for each in drawn(figures, ground) if not each.used]
    contours = tuple(contour for each in kept for contour in each.contours)
    numbers = tuple(each.number for each in kept for _ in each.contours)
    return Artwork(contours, "drawing", layered=True, numbers=numbers, outline=any(each.outline for each in kept))


def _outside(artwork: Artwork, blank: Blank) -> tuple[str, ...]:
    """Says which figures leave the blank."""
    if artwork.outline:
        return ()
    gone = set()
    for number, contour in zip(artwork.numbers, artwork.contours, strict=True):
        if contour.layer != "REFERENCE" and not blank.region.contains(contour.flattened(0.1), 1e-6).all():
            gone.add(number)
    if not gone:
        return ()
    named = ", ".join(map(str, sorted(gone)[:6])) + (" and more" if len(gone) > 6 else "")
    return (
        f"{'Figures' if len(gone) > 1 else 'Figure'} {named} reach{'' if len(gone) > 1 else 'es'} beyond the blank.",
    )
