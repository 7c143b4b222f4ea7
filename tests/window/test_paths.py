"""Arcs as the toolkit draws them, against their circles: nearly straight ones too."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtGui import QPainterPath

from zuschnitt.core.contour import Contour, arc_centre
from zuschnitt.window.layers.paths import add_contour


@pytest.mark.parametrize("bulge", [1.0, -0.3, 4.0, 1e-3, -1e-5, 1e-7, -1e-9])
def test_an_arc_is_drawn_on_its_circle_from_end_to_end(bulge):
    """Radii up to 10,000 km: the toolkit's own arcs leave these by centimetres."""
    start, end = np.array([12.0, -3.0]), np.array([410.0, 64.0])
    path = QPainterPath()
    add_contour(path, Contour(np.array([start, end]), np.array([bulge, 0.0]), False))
    drawn = np.array([[p.x(), p.y()] for p in (path.pointAtPercent(k / 200) for k in range(201))])
    assert np.abs(drawn[[0, -1]] - [start, end]).max() < 1e-9
    centre, radius, _, _ = arc_centre(start, end, bulge)
    assert np.abs(np.linalg.norm(drawn - centre, axis=1) - radius).max() < 5e-6 * min(radius, 1e3)
    middle = (start + end) / 2 + bulge / 2 * np.array([(end - start)[1], -(end - start)[0]])
    assert np.linalg.norm(drawn - middle, axis=1).min() < 1 + abs(bulge) * 10
