"""Where the drawing lies on the stage. Knows no widget."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QTransform

from ...core.record import record


@record
class PaperView:
    """``centre`` (2,) in mm is in the middle of a stage of ``size`` pixels; ``scale`` is pixels per mm; y is up."""

    centre: tuple[float, float] = (0.0, 0.0)
    scale: float = 1.0
    size: tuple[int, int] = (1, 1)

    @property
    def transform(self) -> QTransform:
        """From mm to pixels."""
        made = QTransform()
        made.translate(self.size[0] / 2, self.size[1] / 2)
        made.scale(self.scale, -self.scale)
        made.translate(-self.centre[0], -self.centre[1])
        return made

    def to_pixels(self, points: np.ndarray) -> np.ndarray:
        """Pixels (n, 2) of blank points (n, 2)."""
        x = (points[:, 0] - self.centre[0]) * self.scale + self.size[0] / 2
        y = self.size[1] / 2 - (points[:, 1] - self.centre[1]) * self.scale
        return np.stack([x, y], axis=1)

    def to_blank(self, position: QPointF) -> np.ndarray:
        """The blank point (2,) under a position in pixels."""
        x = (position.x() - self.size[0] / 2) / self.scale + self.centre[0]
        y = (self.size[1] / 2 - position.y()) / self.scale + self.centre[1]
        return np.array([x, y])

    def moved(self, dx: float, dy: float) -> PaperView:
        """What one sees moved by pixels, y down."""
        x, y = self.centre
        return replace(self, centre=(x - dx / self.scale, y + dy / self.scale))

    def zoomed(self, factor: float, position: QPointF) -> PaperView:
        """Zoomed so that what is under the position stays there."""
        under = self.to_blank(position)
        scale = float(np.clip(self.scale * factor, 1e-3, 1e4))
        centre = under + (np.array(self.centre) - under) * (self.scale / scale)
        return replace(self, centre=(float(centre[0]), float(centre[1])), scale=scale)


def scale_words(pixels_per_mm: float, dots_per_inch: float) -> str:
    """The scale as on a drawing, such as 1 : 2.5."""
    ratio = dots_per_inch / 25.4 / pixels_per_mm
    return f"1 : {ratio:.3g}" if ratio >= 1 else f"{1 / ratio:.3g} : 1"
