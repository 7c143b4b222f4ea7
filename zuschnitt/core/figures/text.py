"""Text in the typeface that ships with the program."""

from __future__ import annotations

from typing import Any

from ..errors import Refused
from ..parameters.choice import choice
from ..parameters.number import number
from ..parameters.words import words
from ..plane.contour import Contour
from .registry import LAYERS, Placed, figure

STANDS = {"left": "begins", "centre": "stands centred", "right": "ends"}
SHARE = {"left": 0.0, "centre": 0.5, "right": 1.0}


@figure("text", title="Text", group="Draw", says="outlines of letters, by the height of a capital")
class Lettering(Placed):
    kind: Any = choice("mark", LAYERS, "what becomes of it")
    text: Any = words("Amselhof", "no text", "the words")
    height: Any = number(6, "mm", "the height of a capital letter", above=0)
    stands: Any = choice("centre", STANDS, "which part of it lies at its place")

    sentence = "{kind} {text}, {height} high; it {stands} at {x}, {y} from {place}, turned by {turn}."

    def shape(self) -> list[Contour]:
        from ..plane.lettering import lettering, without_glyphs

        if not self.text.strip():
            raise Refused("it has no words; type some.")
        lacking = without_glyphs(self.text)
        if lacking:
            raise Refused(f"the typeface has no {lacking[0]!r}; write it in other letters.")
        capital = max(c.bounds[1][1] for c in lettering("H", 1.0)[0])
        contours, width = lettering(self.text, self.height / capital)
        if not contours:
            raise Refused("it has no letters that can be drawn; type some.")
        return [c.moved(1.0, 0.0, (-width * SHARE[self.stands], 0.0)) for c in contours]
