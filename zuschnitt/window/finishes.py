"""How materials look in a picture: their colour, and how they shine."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtGui import QColor

from ..core.errors import WrongCall
from ..core.record import record


@record
class Finish:
    """``colour`` as #rrggbb; ``soft`` light from all sides, ``lit`` from the lamps, ``shine`` and how ``sharp``."""

    colour: str
    soft: float = 0.45
    lit: float = 0.6
    shine: float = 0.0
    sharp: float = 10.0


FINISHES = {
    "steel": Finish("#8f969b", 0.46, 0.55, 0.45, 28),
    "stainless": Finish("#b4babd", 0.5, 0.5, 0.6, 40),
    "aluminium": Finish("#c6c9cb", 0.52, 0.48, 0.4, 22),
    "brass": Finish("#c2a04e", 0.48, 0.52, 0.55, 34),
    "copper": Finish("#b4714d", 0.48, 0.52, 0.5, 34),
    "wood": Finish("#c79a63", 0.5, 0.55, 0.05, 8),
    "birch ply": Finish("#dcc296", 0.52, 0.52, 0.05, 8),
    "card": Finish("#c8b08a", 0.58, 0.48),
    "paper": Finish("#f1ede3", 0.62, 0.42),
    "fabric": Finish("#8f8a80", 0.6, 0.45),
    "leather": Finish("#7a4f33", 0.48, 0.55, 0.12, 10),
    "film": Finish("#3f6f7a", 0.42, 0.5, 0.5, 60),
    "acrylic": Finish("#d9dfe0", 0.4, 0.45, 0.7, 80),
    "plain": Finish("#e3e5e2", 0.5, 0.55),
}
SAME_AS = {
    "steel sheet": "steel",
    "stainless sheet": "stainless",
    "aluminium sheet": "aluminium",
    "brass sheet": "brass",
}


def finish(name: str, colour: str = "") -> Finish:
    """The finish whose name begins with, or has in it, what is typed. Raises WrongCall where there is none."""
    typed = name.strip().lower()
    known = SAME_AS.get(typed, typed)
    found = [key for key in FINISHES if key.startswith(known)] or [key for key in FINISHES if known in key]
    if not found:
        raise WrongCall(f"There is no material {name!r} to look at; there are {', '.join(FINISHES)}.")
    made = FINISHES[known if known in FINISHES else found[0]]
    return replace(made, colour=_colour(colour)) if colour else made


def finish_of(text: str, whole: Finish) -> Finish:
    """The finish of a face by MATERIAL[:COLOUR]; what is not said is that of the ``whole``. Raises WrongCall."""
    name, _, colour = (part.strip() for part in text.partition(":"))
    return finish(name, colour) if name else replace(whole, colour=_colour(colour) if colour else whole.colour)


def _colour(text: str) -> str:
    own = QColor(text)
    if not own.isValid():
        raise WrongCall(f"{text!r} is no colour; write a name such as teal, or #rrggbb.")
    return own.name()
