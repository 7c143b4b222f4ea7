"""Ribs, standing in their form or on their way there: those of the selected row."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import shapely

from ..theme import theme
from .layer import FormLayer, FormScene

if TYPE_CHECKING:
    from ..stages.scene import LineSets


AWAY = 0.6
"""Ribs that are not in their place yet are away from it by this part of the form's size."""


class RibsLayer(FormLayer):
    order = 95

    def key(self, scene: FormScene) -> object:
        return scene.session.together

    def show(self, lines: LineSets, scene: FormScene) -> None:
        made = scene.session.value(scene.session.selected_row, "ribs")
        outlines: list[np.ndarray] = []
        for rib, off in made.played(scene.session.together, AWAY * scene.form.size) if made is not None else ():
            for part in shapely.get_parts(rib.area):
                for ring in (part.exterior, *part.interiors):
                    outlines.append(rib.frame.space(shapely.get_coordinates(ring)) + off)
        outlines.extend(np.array([rod.start, rod.end]) for rod in (made.rods if made is not None else ()))
        lines.of("ribs", 1.6).show(outlines, theme().blank)
