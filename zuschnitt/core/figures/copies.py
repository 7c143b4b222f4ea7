"""What figures that repeat others have in common."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from ..errors import Refused
from ..plane.contour import Contour

MOST = 50_000
"""No figure is repeated more often than this."""


def whole_number(count: float) -> int:
    """Of copies. Raises Refused."""
    if count != int(count):
        raise Refused(f"{count:g} copies cannot be made; give a whole number.")
    return int(count)


def direction(degrees: float) -> np.ndarray:
    """(2,), of length 1."""
    return np.array([np.cos(np.radians(degrees)), np.sin(np.radians(degrees))])


def copies(taken: list[Contour], steps: Iterable[np.ndarray]) -> list[Contour]:
    """All of ``taken`` moved by each of ``steps``, (2,) in mm."""
    return [contour.moved(1.0, 0.0, step) for step in steps for contour in taken]
