"""The straight lines of faces that were found to be developable."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen

from ...core.form.charts import FlatChart
from ..theme import theme
from .layer import BlankLayer, BlankScene, FormLayer, FormScene

if TYPE_CHECKING:
    from ..stages.scene import LineSets

COUNT = 13
"""How many rulings are drawn on a face."""
MOST = 60
"""A form of more faces is drawn without them."""


class BlankRulings(BlankLayer):
    order = 20
    of_blank = True

    def __init__(self) -> None:
        self._kept: tuple[object, QPainterPath] | None = None

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        blank = scene.blank
        form = scene.session.value(scene.session.nearby("form"), "form")
        if scene.mapped or form is None or len(blank.faces) > MOST:
            return
        if self._kept is None or self._kept[0] is not blank:
            path = QPainterPath()
            leaves = {leaf.face: leaf for leaf in blank.correspondence.leaves}
            for number in blank.faces:
                flat = form.faces[number - 1].flat if number <= len(form.faces) else None
                leaf = leaves[number]
                if flat is not None and isinstance(leaf.chart, FlatChart):
                    for ends in flat.rulings(COUNT):
                        (x0, y0), (x1, y1) = leaf.chart_to_blank(leaf.chart.flatten(ends))
                        path.moveTo(x0, y0)
                        path.lineTo(x1, y1)
            self._kept = (blank, path)
        painter.strokePath(scene.view.transform.map(self._kept[1]), QPen(QColor(theme().grid).darker(112), 0.8))


class FormRulings(FormLayer):
    order = 30
    of_blank = True

    def show(self, lines: LineSets, scene: FormScene) -> None:
        found: list[np.ndarray] = []
        for face in scene.form.faces if len(scene.form.faces) <= MOST else ():
            if face.flat is not None:
                found.extend(face.surface.evaluate(ends) for ends in face.flat.rulings(COUNT))
        lines.of("rulings", 0.7).show(found, theme().quiet)
