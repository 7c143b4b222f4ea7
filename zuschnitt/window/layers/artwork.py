"""Artwork on the blank."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QTransform

from ...core.job.route import Row
from ...core.plane.artwork import Artwork
from ...core.plane.contour import Contour, cut_out
from ..drawing import figures_of
from ..motion import Motion, every_so_many, thinned_out
from ..theme import theme
from .layer import BlankLayer, BlankScene
from .paths import KeptPath, hatch, path_of, paths_of, short_parts, stroke

COARSE = 0.05
"""Arcs of what moves are flattened to this in mm."""
PART = 60
"""Artwork is stroked in parts of so many points: to stroke a long path takes much more than its share."""


class ArtworkLayer(BlankLayer):
    order = 80

    def __init__(self) -> None:
        self._outline = KeptPath()
        self._parts: dict[tuple[str, bool], tuple[Artwork, list[QPainterPath]]] = {}
        self._cuts: dict[str, tuple[Artwork, QPainterPath]] = {}
        self._inside: dict[str, tuple[object, bool]] = {}

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        for row, artwork in artworks(scene):
            if row.id == scene.session.selected and figures_of(row) is not None:
                continue  # the drawing that is worked on shows itself
            self._paint(painter, scene, row, artwork)

    def legend(self, scene: BlankScene) -> str:
        return "MARK —" if scene.session.on_blank("artwork") or scene.session.on_blank("traced") else ""

    def _paint(self, painter: QPainter, scene: BlankScene, row: Row, artwork: Artwork) -> None:
        """In ochre; where it leaves the blank, dotted in another colour. Finer while it moves."""
        now, view, blank = theme(), scene.view, scene.blank
        motion = scene.session.motions.get(row.id)
        transform = view.transform if motion is None else _moved(motion) * view.transform
        paths = [transform.map(path) for path in self._parts_of(row, artwork, motion is not None)]
        hatch(painter, transform.map(self._cuts_of(row, artwork)), QColor(now.blank))
        width = 1.5 if motion is None else 1.0  # lines of one pixel are drawn much quicker
        if self._all_inside(scene, row, artwork, motion):
            stroke(painter, paths, QPen(QColor(now.blank), width))
            return
        style = Qt.PenStyle.DotLine if motion is None else Qt.PenStyle.SolidLine
        stroke(painter, paths, QPen(QColor(now.outside), width, style))
        painter.save()
        painter.setClipPath(view.transform.map(self._outline.of(blank, blank.outline)))
        if motion is None:
            stroke(painter, paths, QPen(QColor(now.blank_face), 2.4))
        stroke(painter, paths, QPen(QColor(now.blank), width))
        painter.restore()

    def _parts_of(self, row: Row, artwork: Artwork, moving: bool) -> list[QPainterPath]:
        """Paths of its contours; while it moves, of not too many of their points."""
        every = every_so_many(artwork.segments) if moving else 1
        key = (row.id, every > 1)
        kept = self._parts.get(key)
        if kept is None or kept[0] is not artwork:
            parts: list[list[Contour]] = [[]]
            length = 0
            for contour in artwork.contours if every == 1 else coarse(artwork, every):
                for part in short_parts(contour, PART):
                    if length + len(part.points) > PART and length:
                        parts.append([])
                        length = 0
                    parts[-1].append(part)
                    length += len(part.points)
            self._parts[key] = kept = (artwork, paths_of(parts))
        return kept[1]

    def _cuts_of(self, row: Row, artwork: Artwork) -> QPainterPath:
        """What of the artwork is cut out."""
        kept = self._cuts.get(row.id)
        if kept is None or kept[0] is not artwork:
            self._cuts[row.id] = kept = (artwork, path_of([] if artwork.outline else cut_out(artwork.contours)))
        return kept[1]

    def _all_inside(self, scene: BlankScene, row: Row, artwork: Artwork, motion: Motion | None) -> bool:
        """Whether all of the artwork lies on the blank."""
        key = (id(scene.blank), id(artwork), motion)
        kept = self._inside.get(row.id)
        if kept is None or kept[0] != key:
            points = np.vstack([contour.points for contour in artwork.contours])
            if motion is not None:
                points = motion.apply(points[:: every_so_many(len(points))])
            self._inside[row.id] = kept = (key, bool(scene.blank.region.contains(points, 1e-6).all()))
        return kept[1]


def coarse(artwork: Artwork, every: int) -> list[Contour]:
    """Polylines through each of so many points of the contours."""
    lines = [contour.flattened(COARSE) for contour in artwork.contours]
    return [Contour.polyline(thinned_out(line, every)) for line in lines]


def artworks(scene: BlankScene) -> list[tuple[Row, Artwork]]:
    """The artwork on the blank, by its rows."""
    session = scene.session
    found = [(row, session.value(row, "artwork")) for row in session.on_blank("artwork")]
    return [(row, artwork) for row, artwork in found if artwork is not None]


def _moved(motion: Motion) -> QTransform:
    ends = motion.apply(np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]]))
    x, y = ends[1] - ends[0], ends[2] - ends[0]
    return QTransform(x[0], x[1], y[0], y[1], ends[0][0], ends[0][1])
