"""The harpoon of a development's frame, on both stages."""

from __future__ import annotations

import numpy as np
from PyQt6.QtGui import QPainter

from ..stages.harpoon import paint_harpoon
from ..theme import theme
from .layer import BlankLayer, BlankScene, FormLayer, FormScene

LENGTH = 52
"""In pixels."""


class BlankFrame(BlankLayer):
    order = 110
    of_blank = True

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        now = theme()
        origin = scene.view.to_pixels(np.zeros((1, 2)))[0]
        x, y = np.array([LENGTH, 0.0]), np.array([0.0, -LENGTH])
        paint_harpoon(painter, origin, x, y, now.form, now.blank_paper, outer=True)


class FormFrame(FormLayer):
    order = 110
    of_blank = True

    def paint(self, painter: QPainter, scene: FormScene) -> None:
        now, blank = theme(), scene.blank
        if blank is None:
            return
        origin, along, normal = blank.hold_form, blank.along_form, blank.normal_form
        length = LENGTH / scene.camera.scale
        across = np.cross(normal, along)
        at = scene.pixels(np.array([origin, origin + along * length, origin + across * length]))
        outer = bool(normal @ scene.camera.axes[2] > 0)
        paint_harpoon(painter, at[0], at[1] - at[0], at[2] - at[0], now.form, now.form_paper, outer)
