"""What is wrong with ribs: in words, with the ribs it concerns and the places where it is."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import field

import numpy as np

from ..geometry.curves import Array
from ..record import record


@record
class Trouble:
    """``words`` say it of the ``ribs``, by their names, at the points ``at`` (n, 3); none where it is all of them.

    Where it ``stops`` them, they do not go together.
    """

    words: str
    ribs: tuple[str, ...] = ()
    at: Array = field(default_factory=lambda: np.zeros((0, 3)))
    stops: bool = True


def words_of(troubles: Iterable[Trouble]) -> tuple[str, ...]:
    """The sentences, each once."""
    return tuple(dict.fromkeys(trouble.words for trouble in troubles))
