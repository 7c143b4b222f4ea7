"""A blank on pages of paper, as the printer gets it."""

from __future__ import annotations

import numpy as np

from ..geometry.curves import Array
from ..plane.contour import Contour
from ..record import record


@record
class Page:
    """A page ``name`` (row by letter, column by number) that shows the blank from ``low`` (2,) to ``high`` (2,), in mm.

    ``row`` and ``column`` count from the upper left, from 0. ``pieces`` are the names of those that lie on it.
    """

    name: str
    low: Array
    high: Array
    row: int
    column: int
    pieces: tuple[str, ...] = ()


@record
class Pages:
    """Pages of ``paper`` (width, height) in mm on which ``contours`` are printed ``scale`` times as large as they are.

    ``corners`` (t, 3, 2) are filled with ``shades`` (t, 3) from 0 to 255, a map of stretch up to ``limit`` percent;
    ``strokes`` (k, 2, 2) are short lines. Neighbouring pages show ``overlap`` mm of paper alike.
    """

    contours: tuple[Contour, ...]
    paper: tuple[float, float]
    pages: tuple[Page, ...]
    overlap: float
    scale: float = 1.0
    corners: Array | None = None
    shades: np.ndarray | None = None
    strokes: Array | None = None
    limit: float = 0.0
