"""Ribs laid out flat: all pieces, numbered, while their row is selected."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen

from ...core.develop.word import RISE, Word
from ...core.plane.contour import Contour, bounds
from ..theme import theme
from .layer import BlankLayer, BlankScene, Box
from .marks import write
from .paths import path_of
from .ribs import paint_rings


class RibSheetLayer(BlankLayer):
    """It has the whole stage."""

    order = 113

    def __init__(self) -> None:
        self._kept: tuple[object, QPainterPath, QPainterPath, list[Word], np.ndarray] | None = None

    def alone(self, scene: BlankScene) -> str:
        return "all pieces flat, in order" if pieces_of(scene) else ""

    def extent(self, scene: BlankScene) -> Box | None:
        pieces = pieces_of(scene)
        return bounds(pieces) if pieces else None

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        pieces = pieces_of(scene)
        if not pieces:
            return
        if self._kept is None or self._kept[0] is not pieces:
            cut = path_of(c for c in pieces if c.layer == "CUT")
            mates = path_of(c for c in pieces if c.name == "mate")
            self._kept = pieces, cut, mates, names_of(pieces), _places(scene)
        _, cut, mates, names, places = self._kept
        now, to_pixels = theme(), scene.view.transform
        painter.fillPath(to_pixels.map(cut), QColor(now.blank_face))
        painter.strokePath(to_pixels.map(cut), QPen(QColor(now.blank), 1.2))
        painter.strokePath(to_pixels.map(mates), QPen(QColor(now.quiet), 0.8))
        write(painter, names, scene.view)
        paint_rings(painter, scene.view.to_pixels(places))


def names_of(pieces: Sequence[Contour]) -> list[Word]:
    """The plates' names, where they stand on the sheet."""
    letters: dict[str, list[np.ndarray]] = {}
    for contour in pieces:
        if contour.layer == "TEXT" and contour.name != "mate":
            letters.setdefault(contour.name, []).append(contour.points)
    words = []
    for name, rings in letters.items():
        corners = np.vstack(rings)
        low, high = corners.min(axis=0), corners.max(axis=0)
        words.append(Word(name, float(high[1] - low[1]) / (2 * RISE), (low + high) / 2))
    return words


def _places(scene: BlankScene) -> np.ndarray:
    """Where something is wrong with the ribs, on the sheet."""
    from ...core.ribs.layout import marked

    return marked(scene.session.drawn("ribs"))


def pieces_of(scene: BlankScene) -> Any:
    """The contours of the selected row's ribs, laid out; empty where it gives none."""
    row = scene.session.selected_row
    if row is None or "ribs" not in row.gives:
        return ()
    return scene.session.value(row, "drawing") or ()
