"""The drawing that is worked on: its figures as they are now, those that are picked with their dimensions."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from ...core.figures.registry import Placed
from ...core.parameters.number import Number, is_plain
from ...core.plane.contour import cut_out
from ...core.record import record
from ...core.units import shown
from ..drawing import LiveDrawing
from ..theme import font, theme
from .layer import BlankLayer, BlankScene
from .paths import hatch, path_of

AWAY = 22.0
"""Dimension lines stand so many pixels beside what they measure."""
LEAST = 6.0
"""A dimension shorter than this, in pixels, is not drawn."""


@record
class Dimension:
    """A value ``name`` of figure ``number`` between two points (2,) of the blank, drawn ``aside`` (2,) pixels."""

    number: int
    name: str
    start: np.ndarray
    end: np.ndarray
    aside: np.ndarray
    text: str


class DrawingLayer(BlankLayer):
    order = 85

    def __init__(self) -> None:
        self._numbers: list[tuple[QRectF, Dimension]] = []

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        self._numbers = []
        drawing = scene.session.drawings.now()
        if drawing is None or scene.session.hides(scene.session.selected_row):
            return
        now, picked = theme(), scene.session.figures
        kept = (contour for each in drawing.drawn if not (each.used or each.outline) for contour in each.contours)
        hatch(painter, scene.view.transform.map(path_of(cut_out(kept))), QColor(now.blank))
        for each in drawing.drawn:
            chosen = each.number in picked
            if each.used and not chosen:
                continue
            path = path_of(each.contours)
            layer = each.contours[0].layer
            pen = QPen(QColor(now.blank), 2.6 if chosen else 1.5)
            if layer == "REFERENCE" or each.used:
                pen = QPen(QColor(now.quiet), 1.8 if chosen else 1.0, Qt.PenStyle.DashLine)
            elif layer == "MARK" and not chosen:
                pen = QPen(QColor(now.blank), 1.0)
            painter.strokePath(scene.view.transform.map(path), pen)
        if len(picked) == 1:
            for dimension in dimensions(drawing, next(iter(picked)), scene):
                self._paint_dimension(painter, scene, dimension)

    def legend(self, scene: BlankScene) -> str:
        drawing = scene.session.drawings.now()
        drawn = drawing.drawn if drawing is not None else ()
        return "REFERENCE - -" if any(each.contours[0].layer == "REFERENCE" for each in drawn) else ""

    def number_at(self, position: QPointF) -> tuple[QRectF, Dimension] | None:
        """The dimension whose number stands at a position."""
        return next(((area, each) for area, each in self._numbers if area.contains(position)), None)

    def _paint_dimension(self, painter: QPainter, scene: BlankScene, dimension: Dimension) -> None:
        now = theme()
        start, end = scene.view.to_pixels(np.array([dimension.start, dimension.end]))
        a, b = start + dimension.aside, end + dimension.aside
        length = float(np.linalg.norm(b - a))
        if length < LEAST:
            return
        along = (b - a) / length
        painter.setPen(QPen(QColor(now.quiet), 1))
        for from_, to in ((start, a), (end, b)):
            painter.drawLine(QPointF(*from_), QPointF(*(to + 4 * dimension.aside / np.linalg.norm(dimension.aside))))
        painter.setPen(QPen(QColor(now.ink), 1))
        painter.drawLine(QPointF(*a), QPointF(*b))
        stroke = np.array([along[0] - along[1], along[0] + along[1]]) * 3
        for at in (a, b):  # short strokes, as on a shop drawing
            painter.drawLine(QPointF(*(at - stroke)), QPointF(*(at + stroke)))
        painter.setFont(font(11))
        width = painter.fontMetrics().horizontalAdvance(dimension.text) + 10
        middle = (a + b) / 2 if length > width + 12 else b + along * (width / 2 + 8)
        area = QRectF(middle[0] - width / 2, middle[1] - 8, width, 16)
        inside = scene.blank.region.contains(scene.view.to_blank(QPointF(*middle)).reshape(1, 2))[0]
        painter.fillRect(area, QColor(now.blank_face if inside else now.blank_paper))
        painter.setPen(QColor(now.blank))
        painter.drawText(area, Qt.AlignmentFlag.AlignCenter, dimension.text)
        self._numbers.append((area, dimension))


def dimensions(drawing: LiveDrawing, number: int, scene: BlankScene) -> list[Dimension]:
    """Where a placed figure lies from what it is measured from, and its own sizes."""
    found, frame = drawing.figure(number), drawing.frame(number)
    if found is None or frame is None or not isinstance(found.figure, Placed):
        return []
    figure, entry = found.figure, drawing.parameter.entry_of(drawing.parameter.written(drawing.row), number)
    here = frame.at(figure.x, figure.y)
    corner = frame.at(figure.x, 0.0)
    line = next(each for each in drawing.parameter.written(drawing.row) if int(each["number"]) == number)

    def text(name: str, value: float) -> str:
        parameter, unit = entry.parameter(name), scene.session.job.unit
        said = str(line.get(name, parameter.default))
        if unit != "mm" and isinstance(parameter, Number) and parameter.unit == "mm":
            return f"{shown(value, unit)} {unit}"
        return f"{value:g}" if is_plain(said) else f"{said} = {value:g}"

    up = np.array([frame.away[0], -frame.away[1]])
    right = np.array([frame.along[0], -frame.along[1]])
    # beside the figure, on the side away from where it is measured from
    made = [
        Dimension(number, "x", frame.origin, corner, -_sign(figure.y) * AWAY * up, text("x", figure.x)),
        Dimension(number, "y", corner, here, _sign(figure.x) * AWAY * right, text("y", figure.y)),
    ]
    turn = frame.turn + np.radians(figure.turn)
    x, y = np.array([np.cos(turn), np.sin(turn)]), np.array([-np.sin(turn), np.cos(turn)])
    sizes = {way: float(getattr(figure, name)) for name, way in figure.measured}
    for name, way in figure.measured:
        half, other = sizes[way] / 2, sizes.get("across" if way == "along" else "along", sizes[way]) / 2
        one, two = (x, y) if way == "along" else (y, -x)
        beside = AWAY * np.array([two[0], -two[1]])
        start, end = here - half * one + other * two, here + half * one + other * two
        made.append(Dimension(number, name, start, end, beside, text(name, sizes[way])))
    return made


def _sign(value: float) -> float:
    return 1.0 if value >= 0 else -1.0
