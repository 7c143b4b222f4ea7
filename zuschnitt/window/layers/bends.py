"""The bend table of a blank, and the number of each bend at its line."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from ...core.plane.contour import Contour
from ...core.shop.bend_table import HEADS, bend_rows, named, number_of
from ..stages.stage import FOOT, HEAD
from ..theme import font, theme
from .layer import BlankLayer, BlankScene

LINE = 17
LEFT, TOP = 16, HEAD + 8.0
WIDTHS = (64, 74, 50, 50, 58)
LEAST = 16
"""A bend shorter than this on the stage, in pixels, bears no number."""


SHARES = (0.5, 0.35, 0.65, 0.2, 0.8, 0.92, 0.08)
"""Where on its line a number may stand, what is tried first standing first."""
APART = 20.0
"""Numbers stand so far apart, in pixels, where there is room."""


class BendsLayer(BlankLayer):
    order = 95
    of_blank = True

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        bends: dict[str, list[Contour]] = {}
        for fold in scene.blank.folds:
            if fold.bend is not None:
                bends.setdefault(fold.name, []).append(fold)
        if not bends:
            return
        painter.setFont(font(11))
        placed: list[np.ndarray] = []
        for name, lines in bends.items():
            longest = max(lines, key=lambda line: line.length)
            ends = scene.view.to_pixels(longest.points)
            if np.linalg.norm(ends[1] - ends[0]) >= LEAST:
                at = _clear_of(ends, placed)
                placed.append(at)
                paint_number(painter, str(number_of(name)), at)
        self._table(painter, scene)

    @staticmethod
    def _table(painter: QPainter, scene: BlankScene) -> None:
        """As many rows as there is room for above the blank, the head included."""
        now, view = theme(), scene.view
        x0, _, x1, y1 = scene.blank.bounds
        (left, top), (right, _) = view.to_pixels(np.array([[x0, y1], [x1, y1]]))
        below = view.size[1] - FOOT
        free = top - 8 if left < LEFT + sum(WIDTHS) + 24 and right > LEFT else below
        rows = int((min(free, below) - TOP) // LINE) - 1
        if rows < 1:
            return
        every = bend_rows(scene.blank.folds)
        shown = every if len(every) <= rows else every[: rows - 1]
        more = sum(len(numbers) for numbers, _ in every[len(shown) :])
        lines = [HEADS, *((named(numbers), *words) for numbers, words in shown)]
        if more:
            lines.append((f"and {more} more", "", "", "", ""))
        painter.setFont(font(11))
        for k, line in enumerate(lines):
            x, y = float(LEFT), TOP + k * LINE
            painter.setPen(QColor(now.quiet if k == 0 else now.ink))
            for n, (text, width) in enumerate(zip(line, WIDTHS, strict=True)):
                side = Qt.AlignmentFlag.AlignLeft if n == 0 else Qt.AlignmentFlag.AlignRight
                shown_text = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, width)
                painter.drawText(QRectF(x, y, width, LINE), side | Qt.AlignmentFlag.AlignVCenter, shown_text)
                x += width
        painter.setPen(QPen(QColor(now.rule), 1))
        painter.drawLine(QPointF(LEFT, TOP + LINE), QPointF(LEFT + sum(WIDTHS), TOP + LINE))


def _clear_of(ends: np.ndarray, placed: list[np.ndarray]) -> np.ndarray:
    """Where on a line (2, 2) a number stands clear of those ``placed``, in the middle if it can be."""
    places = ends[0] + np.array(SHARES)[:, None] * (ends[1] - ends[0])
    if not placed:
        return places[0]
    away = np.linalg.norm(places[:, None] - np.array(placed)[None], axis=2).min(axis=1)
    clear = np.flatnonzero(away >= APART)
    return places[clear[0] if len(clear) else int(np.argmax(away))]


def paint_number(painter: QPainter, text: str, at: np.ndarray) -> None:
    """A bend's number on a disc of paper, on its line."""
    now = theme()
    width = max(15.0, painter.fontMetrics().horizontalAdvance(text) + 7.0)
    disc = QRectF(at[0] - width / 2, at[1] - 7.5, width, 15)
    painter.setPen(QPen(QColor(now.form), 1))
    painter.setBrush(QColor(now.blank_paper))
    painter.drawRoundedRect(disc, 7.5, 7.5)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QColor(now.ink))
    painter.drawText(disc, Qt.AlignmentFlag.AlignCenter, text)
