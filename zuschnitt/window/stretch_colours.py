"""The purple to orange scale of stretch, with numbers on it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QPainter

from .theme import font, theme

STOPS = np.array(
    [[84, 39, 136], [153, 142, 195], [216, 218, 235], [246, 245, 240], [254, 224, 182], [241, 163, 64], [179, 88, 6]],
    float,
)
"""Compressed, through unchanged, to stretched; told apart by the colour-blind too (ColorBrewer PuOr)."""


def colours(percent: NDArray[np.float64], limit: float) -> NDArray[np.uint8]:
    """RGB (n, 3) for stretches (n,) in percent, the ends of the scale at ± ``limit``."""
    at = np.clip(percent / limit, -1, 1) * 3 + 3
    low = np.clip(np.floor(at).astype(int), 0, 5)
    part = (at - low)[:, None]
    return np.round(STOPS[low] * (1 - part) + STOPS[low + 1] * part).astype(np.uint8)


MAPS = (("stretch", "stretch"), ("compression", "compr."))
"""The two maps of a stage, and what stands on it: the larger principal stretch, and the smaller."""


def mapped(stretch: NDArray[np.float64], mode: str) -> NDArray[np.float64]:
    """What a map shows of the principal stretches (t, 2), the larger first: (t,) in percent."""
    return 100 * stretch[:, 1 if mode == "compression" else 0]


def scale_limit(stretch: NDArray[np.float64]) -> float:
    """A round limit in percent that holds nearly all of the stretches."""
    reach = float(100 * np.quantile(np.abs(stretch), 0.998)) or 0.01
    power = 10.0 ** np.floor(np.log10(reach))
    return float(next(step * power for step in (1, 2, 3, 5, 10) if step * power >= reach * 0.999))


def paint_legend(painter: QPainter, area: QRectF, limit: float) -> None:
    """The scale as a bar with five numbers in percent below it."""
    now = theme()
    shades = colours(np.linspace(-limit, limit, int(area.width())), limit)
    for x, (r, g, b) in enumerate(shades):
        painter.fillRect(QRectF(area.left() + x, area.top(), 1.6, 9), QColor(int(r), int(g), int(b)))
    painter.setPen(QColor(now.rule))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(QRectF(area.left(), area.top(), area.width(), 9))
    painter.setFont(font(11))
    painter.setPen(QColor(now.quiet))
    for value in (-limit, -limit / 2, 0.0, limit / 2, limit):
        x = area.left() + (value / limit + 1) / 2 * area.width()
        text = "0" if value == 0 else f"{value:+.3g} %"
        painter.drawText(QRectF(x - 32, area.top() + 11, 64, 16), Qt.AlignmentFlag.AlignCenter, text)
