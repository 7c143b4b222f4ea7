"""The blank as it is drawn: paper, outline, folds, artwork, dimensions and maps. Knows no widget."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPainterPath, QPen, QPolygonF, QTransform

from ..core.artwork import Artwork
from ..core.contour import Contour, arc_centre
from ..core.develop.blank import Blank
from ..core.develop.stretch_scale import colours, mapped, scale_limit
from ..core.develop.strokes import Strokes, strokes
from ..core.form.charts import FlatChart
from ..core.form.form import Form
from .form_picture import MOST_RULED, RULINGS
from .paper_view import PaperView
from .session import Motion
from .stage import FOOT, HEAD
from .stretch_colours import MAPS
from .theme import font, theme

FOLDS = {
    "REFERENCE": Qt.PenStyle.DashDotLine,
    "BEND_UP": Qt.PenStyle.DashLine,
    "BEND_DOWN": Qt.PenStyle.DashDotDotLine,
}
"""Smooth joins, valleys and mountains: told apart by their dashes, as seen from the outer side."""
GRID_STEPS = (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 10_000, 100_000)
PART = 60
"""Artwork is stroked in parts of so many points."""


class BlankDrawing:
    """Keeps the paths and pictures it once made, as long as what they show stays the same."""

    def __init__(self) -> None:
        self._paths: dict[object, tuple[object, QPainterPath]] = {}
        self._map: tuple[object, QImage] | None = None
        self._strokes: tuple[Blank, Strokes] | None = None
        self._artwork_parts: dict[int, tuple[Artwork, list[QPainterPath]]] = {}
        self._inside_of: dict[int, tuple[object, bool]] = {}

    def outline(self, painter: QPainter, view: PaperView, blank: Blank, mode: str, out_of_date: bool) -> None:
        """The blank's area and outline; in the modes of a map, its stretch or compression."""
        now = theme()
        path = view.transform.map(self._path("outline", blank, blank.outline))
        if mode in dict(MAPS) and blank.mesh is not None:
            self._stretch_map(painter, view, blank, mode)
            painter.strokePath(path, QPen(QColor(now.blank), 1.6))
            return
        painter.fillPath(path, QColor(now.blank_face))
        self._failing(painter, view, blank)
        pen = QPen(QColor(now.blank), 2.0)
        if out_of_date:
            pen = QPen(QColor(now.quiet), 1.4, Qt.PenStyle.DashLine)
        painter.strokePath(path, pen)

    def grid(self, painter: QPainter, view: PaperView) -> None:
        """Lines every so many round mm, as on drawing paper."""
        step = next((s for s in GRID_STEPS if s * view.scale >= 16), GRID_STEPS[-1])
        painter.setPen(QPen(QColor(theme().grid), 1))
        low, high = view.to_blank(QPointF(0, view.size[1])), view.to_blank(QPointF(view.size[0], 0))
        for x in np.arange(np.ceil(low[0] / step) * step, high[0], step)[:400]:
            px = int((x - view.centre[0]) * view.scale + view.size[0] / 2)
            painter.drawLine(px, HEAD, px, view.size[1])
        for y in np.arange(np.ceil(low[1] / step) * step, high[1], step)[:400]:
            py = int(view.size[1] / 2 - (y - view.centre[1]) * view.scale)
            painter.drawLine(0, py, view.size[0], py)

    def folds(self, painter: QPainter, view: PaperView, blank: Blank) -> None:
        """Bend lines, and where faces run on smoothly."""
        now = theme()
        for fold in blank.folds:
            style = FOLDS.get(fold.layer, Qt.PenStyle.DashLine)
            colour = now.quiet if fold.layer == "REFERENCE" else now.form
            painter.setPen(QPen(QColor(colour), 1.2, style))
            points = view.to_pixels(fold.flattened(0.05))
            painter.drawPolyline(QPolygonF([QPointF(x, y) for x, y in points]))

    def rulings(self, painter: QPainter, view: PaperView, blank: Blank, form: Form) -> None:
        """The straight lines of faces that were found to be developable."""
        if len(blank.faces) > MOST_RULED:
            return
        kept = self._paths.get("rulings")
        if kept is None or kept[0] is not blank:
            path = QPainterPath()
            leaves = {leaf.face: leaf for leaf in blank.correspondence.leaves}
            for number in blank.faces:
                flat = form.faces[number - 1].flat if number <= len(form.faces) else None
                leaf = leaves[number]
                if flat is not None and isinstance(leaf.chart, FlatChart):
                    for ends in flat.rulings(RULINGS):
                        (x0, y0), (x1, y1) = leaf.chart_to_blank(leaf.chart.flatten(ends))
                        path.moveTo(x0, y0)
                        path.lineTo(x1, y1)
            self._paths["rulings"] = kept = (blank, path)
        painter.strokePath(view.transform.map(kept[1]), QPen(QColor(theme().grid).darker(112), 0.8))

    def reliefs(self, painter: QPainter, view: PaperView, lines: list[tuple[int, np.ndarray]]) -> None:
        """Reliefs that are proposed for the blank that is shown, with their numbers."""
        now = theme()
        painter.setFont(font(11, bold=True))
        for number, points in lines:
            pixels = view.to_pixels(points)
            painter.setPen(QPen(QColor(now.form), 1.6, Qt.PenStyle.DashLine))
            painter.drawPolyline(QPolygonF([QPointF(x, y) for x, y in pixels]))
            x, y = pixels[-1]
            painter.setPen(QColor(now.form))
            painter.drawText(QPointF(x + 4, y - 4), str(number))

    def strokes(self, painter: QPainter, view: PaperView, blank: Blank) -> None:
        """Short strokes along the larger principal stretch."""
        if blank.mesh is None:
            return
        kept = self._strokes
        if kept is None or kept[0] is not blank:
            self._strokes = kept = (blank, strokes(blank.mesh))
        places = view.to_pixels(kept[1].points_blank)
        painter.setPen(QPen(QColor(theme().ink), 1.1))
        for (x, y), (dx, dy) in zip(places.tolist(), kept[1].along_blank.tolist(), strict=True):
            painter.drawLine(QPointF(x - 6 * dx, y + 6 * dy), QPointF(x + 6 * dx, y - 6 * dy))

    def marks(self, painter: QPainter, view: PaperView, blank: Blank) -> None:
        """What is written on the pieces."""
        if blank.marks:
            written = [mark for mark in blank.marks if mark.closed]
            painter.fillPath(view.transform.map(self._path("written", blank, written)), QColor(theme().ink))
            ticks = [mark for mark in blank.marks if not mark.closed]
            painter.strokePath(view.transform.map(self._path("ticks", blank, ticks)), QPen(QColor(theme().ink), 1.2))

    def artwork(
        self, painter: QPainter, view: PaperView, blank: Blank, artwork: Artwork, slot: int, motion: Motion | None
    ) -> None:
        """Artwork in ochre; where it leaves the blank, dotted in another colour. Finer while it moves."""
        now = theme()
        transform = view.transform if motion is None else _moved(motion) * view.transform
        paths = [transform.map(path) for path in self._parts(slot, artwork)]
        width = 1.5 if motion is None else 1.0  # lines of one pixel are drawn much quicker
        if self._inside(blank, artwork, slot, motion):
            _stroke(painter, paths, QPen(QColor(now.blank), width))
            return
        style = Qt.PenStyle.DotLine if motion is None else Qt.PenStyle.SolidLine
        _stroke(painter, paths, QPen(QColor(now.outside), width, style))
        painter.save()
        painter.setClipPath(view.transform.map(self._path("outline", blank, blank.outline)))
        if motion is None:
            _stroke(painter, paths, QPen(QColor(now.blank_face), 2.4))
        _stroke(painter, paths, QPen(QColor(now.blank), width))
        painter.restore()

    def dimension(self, painter: QPainter, view: PaperView, blank: Blank) -> None:
        """The overall width below the blank and the height beside it, with their figures."""
        now = theme()
        x0, y0, x1, y1 = blank.bounds
        (left, bottom), (right, top) = view.to_pixels(np.array([[x0, y0], [x1, y1]]))
        painter.setFont(font(11))
        line = min(bottom + 26, view.size[1] - FOOT - 12.0)
        painter.setPen(QPen(QColor(now.quiet), 1))
        painter.drawLine(QPointF(left, line), QPointF(right, line))
        for x in (left, right):
            painter.drawLine(QPointF(x - 4, line + 4), QPointF(x + 4, line - 4))
        _figure(painter, f"{x1 - x0:.2f}", (left + right) / 2, line)
        beside = left - 18
        if beside > 8:
            painter.setPen(QPen(QColor(now.quiet), 1))
            painter.drawLine(QPointF(beside, bottom), QPointF(beside, top))
            for y in (bottom, top):
                painter.drawLine(QPointF(beside - 4, y + 4), QPointF(beside + 4, y - 4))
            painter.save()
            painter.translate(beside, (bottom + top) / 2)
            painter.rotate(-90)
            _figure(painter, f"{y1 - y0:.2f}", 0, 0)
            painter.restore()

    def _path(self, slot: object, owner: object, contours) -> QPainterPath:
        """The path of contours in mm, kept as long as its owner stays the same."""
        kept = self._paths.get(slot)
        if kept is None or kept[0] is not owner:
            path = QPainterPath()
            for contour in contours:
                add_contour(path, contour)
            self._paths[slot] = kept = (owner, path)
        return kept[1]

    def _parts(self, slot: int, artwork: Artwork) -> list[QPainterPath]:
        """The artwork as many short paths: to stroke a long one takes much more than its share."""
        kept = self._artwork_parts.get(slot)
        if kept is None or kept[0] is not artwork:
            parts, length = [QPainterPath()], 0
            for contour in artwork.contours:
                for part in short_parts(contour, PART):
                    if length + len(part.points) > PART and length:
                        parts.append(QPainterPath())
                        length = 0
                    add_contour(parts[-1], part)
                    length += len(part.points)
            self._artwork_parts[slot] = kept = (artwork, parts)
        return kept[1]

    def _inside(self, blank: Blank, artwork: Artwork, slot: int, motion: Motion | None) -> bool:
        """Whether all of the artwork lies on the blank."""
        key = (id(blank), id(artwork), motion)
        kept = self._inside_of.get(slot)
        if kept is None or kept[0] != key:
            points = np.vstack([contour.points for contour in artwork.contours])
            if motion is not None:
                points = motion.apply(points)
            self._inside_of[slot] = kept = (key, bool(blank.region.contains(points).all()))
        return kept[1]

    def _failing(self, painter: QPainter, view: PaperView, blank: Blank) -> None:
        """Where the material cannot take it."""
        if blank.verdict is None or blank.verdict.can or blank.mesh is None:
            return
        kept = self._paths.get("failing")
        if kept is None or kept[0] is not blank:
            path = QPainterPath()
            path.setFillRule(Qt.FillRule.WindingFill)
            for corners in blank.mesh.points_blank[blank.mesh.triangles[blank.verdict.failing]].tolist():
                path.addPolygon(QPolygonF([QPointF(x, y) for x, y in (*corners, corners[0])]))
            self._paths["failing"] = kept = (blank, path)
        colour = QColor(theme().failing)
        mapped = view.transform.map(kept[1])
        painter.fillPath(mapped, colour)
        painter.strokePath(mapped, QPen(colour, 0.6))

    def _stretch_map(self, painter: QPainter, view: PaperView, blank: Blank, mode: str) -> None:
        assert blank.mesh is not None
        key = (id(blank), mode, view)
        if self._map is None or self._map[0] != key:
            image = QImage(QSize(*view.size), QImage.Format.Format_ARGB32_Premultiplied)
            image.fill(Qt.GlobalColor.transparent)
            inner = QPainter(image)
            mesh = blank.mesh
            shades = colours(mapped(mesh.stretch, mode), scale_limit(mesh.stretch))
            corners = view.to_pixels(mesh.points_blank)[mesh.triangles]
            for (r, g, b), triangle in zip(shades.tolist(), corners.tolist(), strict=True):
                colour = QColor(r, g, b)
                inner.setPen(QPen(colour, 1))
                inner.setBrush(colour)
                inner.drawPolygon(QPolygonF([QPointF(x, y) for x, y in triangle]))
            inner.end()
            self._map = (key, image)
        painter.save()
        painter.setClipPath(view.transform.map(self._path("outline", blank, blank.outline)))
        painter.drawImage(0, 0, self._map[1])
        painter.restore()


def mapped_at(blank: Blank, at: np.ndarray, mode: str) -> float:
    """What a map shows at a blank point (2,), in percent."""
    assert blank.mesh is not None
    centres = blank.mesh.points_blank[blank.mesh.triangles].mean(axis=1)
    nearest = int(np.hypot(*(centres - at).T).argmin())
    return float(mapped(blank.mesh.stretch[nearest : nearest + 1], mode)[0])


def add_contour(path: QPainterPath, contour: Contour) -> None:
    """Adds lines and arcs to a path in mm, y up."""
    path.moveTo(*contour.points[0])
    for start, end, bulge in zip(*contour.spans, strict=True):
        if bulge == 0:
            path.lineTo(*end)
        else:
            centre, radius, angle, sweep = arc_centre(start, end, bulge)
            # Qt's angles run the other way in a plane whose y is up
            box = QRectF(centre[0] - radius, centre[1] - radius, 2 * radius, 2 * radius)
            path.arcTo(box, -np.degrees(angle), -np.degrees(sweep))
    if contour.closed:
        path.closeSubpath()


def short_parts(contour: Contour, most: int) -> list[Contour]:
    """The contour itself, or open parts of it of at most so many points, each from the end of the one before."""
    if len(contour.points) <= most:
        return [contour]
    starts, ends, bulges = contour.spans
    return [
        Contour(np.vstack([starts[i : i + most], ends[i : i + most][-1:]]), np.r_[bulges[i : i + most], 0.0], False)
        for i in range(0, len(starts), most)
    ]


def _stroke(painter: QPainter, paths: list[QPainterPath], pen: QPen) -> None:
    for path in paths:
        painter.strokePath(path, pen)


def _figure(painter: QPainter, text: str, x: float, y: float) -> None:
    width = painter.fontMetrics().horizontalAdvance(text) + 12
    painter.fillRect(QRectF(x - width / 2, y - 8, width, 16), QColor(theme().blank_paper))
    painter.setPen(QColor(theme().ink))
    painter.drawText(QRectF(x - width / 2, y - 9, width, 18), Qt.AlignmentFlag.AlignCenter, text)


def _moved(motion: Motion) -> QTransform:
    ends = motion.apply(np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]]))
    x, y = ends[1] - ends[0], ends[2] - ends[0]
    return QTransform(x[0], x[1], y[0], y[1], ends[0][0], ends[0][1])
