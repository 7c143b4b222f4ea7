"""A relief: a cut in the blank that lets it give way when it is formed."""

from __future__ import annotations

import numpy as np

from ..geometry.curves import Array
from ..record import record


@record
class Relief:
    """A cut: ``points`` (n, 3) on the form, beginning at the edge, ``length`` in mm.

    ``gain`` is by how many percent the largest stretch or compression would be more without it, 0 where that
    was not asked.
    """

    points: Array
    length: float
    gain: float = 0.0

    @classmethod
    def along(cls, points: Array) -> Relief:
        """All of a curve (n, 3)."""
        return cls(points, float(np.linalg.norm(np.diff(points, axis=0), axis=1).sum()))
