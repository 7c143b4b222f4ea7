"""How artwork is being dragged. Knows no widget."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class Motion:
    """Scaled and turned about ``pivot``, then shifted."""

    scale: float = 1.0
    turn: float = 0.0
    shift: tuple[float, float] = (0.0, 0.0)
    pivot: tuple[float, float] = (0.0, 0.0)

    def apply(self, points: np.ndarray) -> np.ndarray:
        """Points (n, 2), moved."""
        cosine, sine = np.cos(self.turn) * self.scale, np.sin(self.turn) * self.scale
        matrix = np.array([[cosine, sine], [-sine, cosine]])
        pivot = np.array(self.pivot)
        return (points - pivot) @ matrix + pivot + np.array(self.shift)
