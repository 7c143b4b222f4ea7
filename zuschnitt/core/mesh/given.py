"""Triangles as a file gives them, before anything is mended."""

from __future__ import annotations

import numpy as np

from ..geometry.curves import Array
from ..record import record


@record
class Triangles:
    """``points`` (n, 3) in mm and ``triangles`` (t, 3) as the file has them; ``body`` (t,) numbers ``bodies``."""

    points: Array
    triangles: np.ndarray
    body: np.ndarray
    bodies: tuple[str, ...]
    unit: str
    messages: tuple[str, ...] = ()
