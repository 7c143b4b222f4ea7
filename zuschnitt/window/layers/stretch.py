"""The map of stretch on the blank, and strokes along the larger principal stretch on both stages."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QColor, QImage, QPainter, QPen

from ...core.develop.blank import Blank
from ...core.develop.stretch_scale import colours, mapped, scale_limit
from ...core.develop.strokes import Strokes, strokes
from ..stages.flat_picture import FlatPicture
from ..stages.paper_view import PaperView
from ..theme import theme
from .layer import BlankLayer, BlankScene, FormLayer, FormScene
from .paths import KeptPath

if TYPE_CHECKING:
    from scipy.spatial import cKDTree

    from ..stages.scene import LineSets

SHARP = 1.6
"""A map is drawn anew when it is looked at this many times larger than it was drawn, or smaller."""


class StretchMap(BlankLayer):
    """Drawn once; a pan or a zoom only lays the same picture elsewhere, until the view comes to rest."""

    order = 5
    of_blank = True

    def __init__(self) -> None:
        self._outline = KeptPath()
        self._picture: FlatPicture | None = None
        self._of: tuple[object, str] | None = None
        self._image: tuple[PaperView, QImage] | None = None

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        blank = scene.blank
        if not scene.mapped or blank.mesh is None:
            return
        if self._of is None or self._of[0] is not blank or self._of[1] != scene.mode:
            mesh = blank.mesh
            self._picture = self._picture or FlatPicture()
            shades = colours(mapped(mesh.stretch, scene.mode), scale_limit(mesh.stretch))
            self._picture.take(mesh.points_blank, mesh.triangles, shades)
            self._of, self._image = (blank, scene.mode), None
        assert self._picture is not None
        if self._image is None or (not scene.moving and self._image[0] != scene.view):
            self._image = scene.view, self._picture.image(scene.view)
        kept, image = self._image
        painter.save()
        painter.setClipPath(scene.view.transform.map(self._outline.of(blank, blank.outline)))
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        corners = np.array([kept.to_blank(QPointF(0, 0)), kept.to_blank(QPointF(*kept.size))])
        (left, top), (right, bottom) = scene.view.to_pixels(corners)
        painter.drawImage(QRectF(left, top, right - left, bottom - top), image)
        painter.restore()


class BlankStrokes(BlankLayer):
    order = 40
    of_blank = True

    def __init__(self) -> None:
        self._kept: tuple[Blank, Strokes] | None = None

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        blank = scene.blank
        if not scene.mapped or blank.mesh is None:
            return
        if self._kept is None or self._kept[0] is not blank:
            self._kept = (blank, strokes(blank.mesh))
        found = self._kept[1]
        painter.setPen(QPen(QColor(theme().ink), 1.1))
        places = scene.view.to_pixels(found.points_blank)
        for (x, y), (dx, dy) in zip(places.tolist(), found.along_blank.tolist(), strict=True):
            painter.drawLine(QPointF(x - 6 * dx, y + 6 * dy), QPointF(x + 6 * dx, y - 6 * dy))


class FormStrokes(FormLayer):
    order = 70
    of_blank = True

    def show(self, lines: LineSets, scene: FormScene) -> None:
        ends = np.zeros((0, 2, 3))
        if scene.mapped and scene.blank is not None and scene.blank.mesh is not None:
            found = strokes(scene.blank.mesh)
            half = found.along_form * scene.form.size / 110
            ends = np.stack([found.points_form - half, found.points_form + half], axis=1)
        lines.of("strokes", 1.2).segments(ends, theme().ink)


class MapReader:
    """Reads a blank's map under the mouse; finds its triangles by a tree, which it makes once for each blank."""

    def __init__(self) -> None:
        self._kept: tuple[Blank, cKDTree] | None = None

    def at(self, blank: Blank, point: np.ndarray, mode: str) -> float:
        """What the map shows at a blank point (2,), in percent."""
        from scipy.spatial import cKDTree

        assert blank.mesh is not None
        if self._kept is None or self._kept[0] is not blank:
            self._kept = blank, cKDTree(blank.mesh.points_blank[blank.mesh.triangles].mean(axis=1))
        nearest = int(self._kept[1].query(point)[1])
        return float(mapped(blank.mesh.stretch[nearest : nearest + 1], mode)[0])
