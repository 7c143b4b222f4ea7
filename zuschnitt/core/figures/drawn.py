"""A drawing drawn: figure after figure, each on what the ones above it have made."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..errors import CannotBeDone, Refused
from ..plane.contour import Contour
from ..record import record
from .figures_value import NumberedFigure
from .ground import Ground

MOST_CONTOURS = 100_000
FAR = 1e6
"""No figure reaches further than this from the origin, in mm."""


@record
class Drawn:
    """A figure as it is drawn; ``used`` where another one that is made of it stands in its place.

    ``outline`` where it bounds the blank in place of its own outline.
    """

    number: int
    key: str
    contours: tuple[Contour, ...]
    used: bool
    outline: bool


def drawn(figures: Sequence[NumberedFigure], ground: Ground) -> tuple[Drawn, ...]:
    """All figures of a drawing, in order. Raises Refused with the figure's number in its sentence."""
    made: list[Drawn] = []
    count = 0
    for each in figures:
        try:
            contours = tuple(replace(c, layer=each.figure.layer) for c in each.figure.draw(ground))
            _check(contours)
        except (Refused, CannotBeDone) as error:
            raise Refused(f"Figure {each.number}: {error.sentence}") from error
        count += len(contours)
        if count > MOST_CONTOURS:
            raise Refused(f"Figure {each.number} makes more than {MOST_CONTOURS:,} contours; repeat fewer of them.")
        outline = each.figure.bounds_blank
        if each.figure.uses_up:
            base, used = set(getattr(each.figure, "of", ())), set(ground.members(each.figure.made_of))
            outline = any(d.outline for d in made if d.number in base)
            made = [replace(d, used=d.used or d.number in used) for d in made]
        made.append(Drawn(each.number, each.key, contours, False, outline))
        ground = ground.with_drawn(each.number, contours, each.figure.made_of if each.figure.repeats else ())
    return tuple(made)


def _check(contours: Sequence[Contour]) -> None:
    if not contours:
        raise Refused("nothing is left of it; change its values.")
    if not all(np.isfinite(c.points).all() and np.abs(c.points).max() < FAR for c in contours):
        raise Refused("it reaches too far away; change its values.")
