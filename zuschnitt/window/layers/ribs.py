"""Ribs, standing in their form or on their way there: those of the selected row, and where something is wrong."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import shapely
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from ..stages.form_picture import shade
from ..stages.scene import Bodies, LineSets
from ..theme import theme
from .layer import FormLayer, FormScene

if TYPE_CHECKING:
    from ...core.ribs.rib import Rib
    from ...core.ribs.ribs import Ribs


AWAY = 0.6
"""Ribs that are not in their place yet are away from it by this part of the form's size."""
RING = 7.0
"""Radius in pixels of the ring round a place where something is wrong."""


class RibsLayer(FormLayer):
    """The plates are seen through the form."""

    order = 95
    slides = True

    def __init__(self) -> None:
        self._faces: tuple[Ribs, list[np.ndarray]] | None = None
        self._drawn: tuple[Ribs, tuple[float, bool], Bodies] | None = None

    def key(self, scene: FormScene) -> object:
        return scene.session.together

    def show(self, lines: LineSets, scene: FormScene) -> None:
        made = _ribs(scene)
        outlines: list[np.ndarray] = []
        if made is not None:
            for rib, off in made.played(scene.session.together, AWAY * scene.form.size):
                outlines.extend(line + off for line in _outlines(rib, made.thickness))
            for rod in made.rods:
                outlines.extend(_outlines(rod.plate, rod.length))
        lines.of("ribs", 1.2).show(outlines, theme().blank)

    def paint(self, painter: QPainter, scene: FormScene) -> None:
        made = _ribs(scene)
        if made is None or scene.session.together < 1:  # the places are those of ribs that stand
            return
        for trouble in made.troubles:
            paint_rings(painter, scene.pixels(trouble.at))

    def bodies(self, scene: FormScene) -> Bodies | None:
        made = _ribs(scene)
        if made is None:
            return None
        how = scene.session.together, theme().dark
        if self._drawn is None or self._drawn[0] is not made or self._drawn[1] != how:
            self._drawn = made, how, self._bodies(made, scene)
        return self._drawn[2]

    def _bodies(self, made: Ribs, scene: FormScene) -> Bodies:
        from ...core.ribs.standing import faces_of

        if self._faces is None or self._faces[0] is not made:
            self._faces = made, [faces_of(rib, made.thickness) for rib in made.ribs]
        corners, colours = [], []
        now, first = theme(), made.ribs[0].name[0]
        for (rib, off), faces in zip(
            made.played(scene.session.together, AWAY * scene.form.size), self._faces[1], strict=True
        ):
            tint = now.failing if rib.name in made.stopped else now.body_tints[4 if rib.name[0] == first else 1]
            corners.append(faces + off)
            colours.append(np.tile(shade(tint), (len(faces), 1)))
        for rod in made.rods:
            corners.append(faces_of(rod.plate, rod.length))
            colours.append(np.tile(shade(now.body_tints[1]), (len(corners[-1]), 1)))
        return Bodies(np.concatenate(corners), np.concatenate(colours))


def paint_rings(painter: QPainter, pixels: np.ndarray) -> None:
    """Round places (n, 2) on a stage at which something is wrong."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(QColor(theme().broken), 2.0))
    for x, y in pixels.tolist():
        painter.drawEllipse(QPointF(x, y), RING, RING)


def _ribs(scene: FormScene) -> Ribs | None:
    found: Ribs | None = scene.session.drawn("ribs")
    return found


def _outlines(rib: Rib, thickness: float) -> list[np.ndarray]:
    """Round both faces of a plate."""
    rings = [ring for part in shapely.get_parts(rib.area) for ring in (part.exterior, *part.interiors)]
    flat = [shapely.get_coordinates(ring) for ring in rings]
    return [rib.frame.space(points, side * thickness / 2) for points in flat for side in (-1, 1)]
