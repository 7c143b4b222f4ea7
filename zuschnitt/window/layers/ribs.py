"""Ribs, standing in their form: those of the selected row."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import shapely

from ..theme import theme
from .layer import FormLayer, FormScene

if TYPE_CHECKING:
    from ..stages.scene import LineSets


class RibsLayer(FormLayer):
    order = 95

    def show(self, lines: LineSets, scene: FormScene) -> None:
        made = scene.session.value(scene.session.selected_row, "ribs")
        outlines: list[np.ndarray] = []
        for rib in made.ribs if made is not None else ():
            for part in shapely.get_parts(rib.area):
                for ring in (part.exterior, *part.interiors):
                    outlines.append(rib.frame.space(shapely.get_coordinates(ring)))
        lines.of("ribs", 1.6).show(outlines, theme().blank)
