"""The blank itself: its area, where the material fails, its outline; on the form, where it was cut open."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen

from ...core.develop.limit import excess, parted
from ...core.mesh.triangles import boundary_rings
from ..theme import theme
from .layer import BlankLayer, BlankScene, Box, FormLayer, FormScene
from .paths import KeptPath, polygon

if TYPE_CHECKING:
    from ..stages.scene import LineSets


class OutlineLayer(BlankLayer):
    order = 10
    of_blank = True

    def __init__(self) -> None:
        self._outline = KeptPath()
        self._failing: tuple[object, QPainterPath] | None = None

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        now, blank = theme(), scene.blank
        path = scene.view.transform.map(self._outline.of(blank, blank.outline))
        if scene.mapped and blank.mesh is not None:  # the map lies below
            painter.strokePath(path, QPen(QColor(now.blank), 1.6))
            return
        painter.fillPath(path, QColor(now.blank_face))
        self._paint_failing(painter, scene)
        pen = QPen(QColor(now.blank), 2.0)
        if scene.warning:
            pen = QPen(QColor(now.quiet), 1.4, Qt.PenStyle.DashLine)
        painter.strokePath(path, pen)

    def extent(self, scene: BlankScene) -> Box:
        return scene.blank.bounds

    def legend(self, scene: BlankScene) -> str:
        return "CUT —"

    def _paint_failing(self, painter: QPainter, scene: BlankScene) -> None:
        """Where the material cannot take it, up to the contour at its limit."""
        blank = scene.blank
        if blank.verdict is None or blank.verdict.can or blank.mesh is None:
            return
        if self._failing is None or self._failing[0] is not blank:
            path = QPainterPath()
            parts = parted(blank.mesh.triangles, excess(blank))
            points, failing = parts.at(blank.mesh.points_blank), parts.triangles[parts.above]
            for ring in boundary_rings(failing) if len(failing) else ():
                path.addPolygon(polygon(points[[*ring, ring[0]]]))
            self._failing = (blank, path)
        colour = QColor(theme().failing)
        mapped = scene.view.transform.map(self._failing[1])
        painter.fillPath(mapped, colour)
        painter.strokePath(mapped, QPen(colour, 0.6))


class SeamsLayer(FormLayer):
    """Where the blank was cut open."""

    order = 20
    of_blank = True

    def show(self, lines: LineSets, scene: FormScene) -> None:
        seams = list(scene.blank.seams_form) if scene.blank is not None else []
        lines.of("seams", 1.4).show(seams, theme().blank)
