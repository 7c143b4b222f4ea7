"""How artwork is being dragged. Knows no widget."""

from __future__ import annotations

import numpy as np

from ..core.record import record

IN_MOTION = 20_000
"""While it moves, what has more points than this is shown with about so many."""


@record
class Motion:
    """Stretched along ``along`` (an angle in radians), scaled and turned about ``pivot``, then shifted."""

    scale: float = 1.0
    turn: float = 0.0
    shift: tuple[float, float] = (0.0, 0.0)
    pivot: tuple[float, float] = (0.0, 0.0)
    stretch: float = 1.0
    along: float = 0.0

    def apply(self, points: np.ndarray) -> np.ndarray:
        """Points (n, 2), moved."""
        cosine, sine = np.cos(self.turn) * self.scale, np.sin(self.turn) * self.scale
        matrix = np.array([[cosine, sine], [-sine, cosine]])
        pivot, way = np.array(self.pivot), np.array([np.cos(self.along), np.sin(self.along)])
        off = points - pivot
        off = off + (self.stretch - 1) * np.outer(off @ way, way)
        return off @ matrix + pivot + np.array(self.shift)


def every_so_many(points: int) -> int:
    """Of so many points each how-manieth is shown while they move."""
    return -(-points // IN_MOTION)


def thinned_out(points: np.ndarray, every: int) -> np.ndarray:
    """Each of so many points (n, k), and the last one."""
    return points if every == 1 else np.vstack([points[:-1:every], points[-1:]])
