"""Arcs as the toolkit draws them, against their circles: nearly straight ones too."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from PyQt6.QtGui import QTransform

from zuschnitt.core.plane.contour import Contour, arc_centre
from zuschnitt.window.layers.paths import path_of


@pytest.mark.parametrize("bulge", [1.0, -0.3, 4.0, 1e-3, -1e-5, 1e-7, -1e-9])
def test_an_arc_is_drawn_on_its_circle_from_end_to_end(bulge):
    """Radii up to 10,000 km: the toolkit's own arcs leave these by centimetres."""
    start, end = np.array([12.0, -3.0]), np.array([410.0, 64.0])
    path = path_of([Contour(np.array([start, end]), np.array([bulge, 0.0]), False)])
    drawn = np.array([[p.x(), p.y()] for p in (path.pointAtPercent(k / 200) for k in range(201))])
    assert np.abs(drawn[[0, -1]] - [start, end]).max() < 1e-9
    centre, radius, _, _ = arc_centre(start, end, bulge)
    assert np.abs(np.linalg.norm(drawn - centre, axis=1) - radius).max() < 5e-6 * min(radius, 1e3)
    middle = (start + end) / 2 + bulge / 2 * np.array([(end - start)[1], -(end - start)[0]])
    assert np.linalg.norm(drawn - middle, axis=1).min() < 1 + abs(bulge) * 10


def test_several_contours_are_one_path_each_closed_or_not():
    square = Contour.polyline(np.array([[0.0, 0], [4, 0], [4, 4], [0, 4]]), True)
    slot = Contour(np.array([[10.0, 0], [20, 0], [20, 6], [10, 6]]), np.array([0, 1.0, 0, 1.0]), True)
    open_one = Contour(np.array([[0.0, 9], [6, 9], [6, 12]]), np.array([-0.5, 0, 0]), False)
    polygons = path_of([square, slot, open_one]).toSubpathPolygons(QTransform.fromScale(100, 100))
    assert [len(each) for each in polygons[:1]] == [5] and len(polygons) == 3
    area = abs(sum(a.x() * b.y() - b.x() * a.y() for a, b in pairwise(list(polygons[1])))) / 2e4
    assert area == pytest.approx(60 + np.pi * 9, rel=5e-3)
    assert (polygons[2].last().x(), polygons[2].last().y()) == (600, 1200)
    assert path_of([]).isEmpty()
