"""The run of the simulated laser: its way, what is done of it, and its faults."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from ..sliding import share_of
from ..stages.stage import HEAD
from ..theme import font, theme
from .layer import BlankLayer, BlankScene, Box
from .paths import polygon

LINE = 17
MOST_FAULTS = 8
LEAST = 14
"""A run shorter than this on the stage, in pixels, bears no number."""


class LaserLayer(BlankLayer):
    """Of the selected row, if it checks; it has the whole stage."""

    order = 112

    def alone(self, scene: BlankScene) -> str:
        made = scene.given("laser")
        return scene.session.words(made.brief()) if made is not None else ""

    def key(self, scene: BlankScene) -> Any:
        return self._share(scene) if scene.given("laser") is not None else None

    @staticmethod
    def _share(scene: BlankScene) -> float:
        """How much of its way is seen as done."""
        row = scene.session.selected_row
        return share_of(scene.session, row) if row is not None else 1.0

    def extent(self, scene: BlankScene) -> Box | None:
        made = scene.given("laser")
        if made is None:
            return None
        points = np.vstack([path.points for path in made.value.paths])
        low, high = points.min(axis=0), points.max(axis=0)
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        made = scene.given("laser")
        if made is None:
            return
        now, run = theme(), made.value
        left = self._share(scene) * sum(path.length for path in run.paths)
        painter.setFont(font(11))
        at = np.zeros(2)
        number = 0
        for path in run.paths:
            number += path.layer != "LEAD"
            points = path.points
            pixels = scene.view.to_pixels(points)
            if left > 0:
                painter.setPen(QPen(QColor(now.quiet), 0.8, Qt.PenStyle.DashLine))
                begin, end = scene.view.to_pixels(np.array([at, points[0]]))
                painter.drawLine(QPointF(*begin), QPointF(*end))
            done = _done(points, left)
            painter.setPen(QPen(QColor(now.rule), 1.2))
            painter.drawPolyline(polygon(pixels))
            if len(done) > 1:
                marked = path.layer in ("MARK", "TEXT")
                colour = now.outside if path.layer == "LEAD" else now.blank
                painter.setPen(QPen(QColor(colour), 1.0 if marked else 2.0))
                painter.drawPolyline(polygon(scene.view.to_pixels(done)))
            if 0 < left < path.length:
                _head(painter, scene, done[-1])
            if np.ptp(pixels, axis=0).max() > LEAST and path.layer != "LEAD" and len(run.paths) < 200:
                painter.setPen(QColor(now.ink))
                painter.drawText(QPointF(pixels[0][0] + 5, pixels[0][1] - 5), str(number))
            left -= path.length
            at = points[-1]
        self._faults(painter, scene, run)

    @staticmethod
    def _faults(painter: QPainter, scene: BlankScene, run: Any) -> None:
        colour = QColor(theme().broken)
        painter.setPen(QPen(colour, 1.6))
        for fault in run.faults:
            x, y = scene.view.to_pixels(np.array([fault.at]))[0]
            painter.drawEllipse(QPointF(x, y), 8, 8)
        painter.setFont(font(11))
        shown = [fault.text for fault in run.faults[:MOST_FAULTS]]
        if len(run.faults) > MOST_FAULTS:
            shown.append(f"and {len(run.faults) - MOST_FAULTS} more")
        for k, text in enumerate(shown):
            area = QRectF(16, HEAD + 8.0 + k * LINE, scene.view.size[0] - 32.0, LINE)
            words = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(area.width()))
            painter.drawText(area, Qt.AlignmentFlag.AlignVCenter, words)


def _done(points: np.ndarray, length: float) -> np.ndarray:
    """The begin of a polyline (n, 2), ``length`` mm of it."""
    steps = np.linalg.norm(np.diff(points, axis=0), axis=1)
    reached = np.concatenate([[0.0], np.cumsum(steps)])
    if length <= 0:
        return points[:1]
    if length >= reached[-1]:
        return points
    k = int(np.searchsorted(reached, length))
    part = (length - reached[k - 1]) / max(steps[k - 1], 1e-12)
    return np.vstack([points[:k], points[k - 1] + part * (points[k] - points[k - 1])])


def _head(painter: QPainter, scene: BlankScene, at: np.ndarray) -> None:
    x, y = scene.view.to_pixels(at.reshape(1, 2))[0]
    painter.setPen(QPen(QColor(theme().form), 2.0))
    painter.drawEllipse(QPointF(x, y), 5, 5)
