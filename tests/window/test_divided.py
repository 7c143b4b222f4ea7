"""Contours as points close to each other, to be carried as they are seen."""

from __future__ import annotations

import numpy as np
import pytest

from zuschnitt.core.plane.contour import Contour
from zuschnitt.window.layers.carried_artwork import divided


@pytest.mark.parametrize("step", [0.5, 3.0, 1000.0])
def test_points_are_on_the_contour_and_no_further_apart_than_asked(step):
    contours = [
        Contour.circle((0, 0), 10),
        Contour.polyline([[0, 0], [40, 0], [40, 7]]),
        Contour.polyline([[0, 0], [9, 0], [9, 9]], closed=True),
    ]
    circle, line, ring = divided(contours, step, 0.01)
    for points in (circle, line, ring):
        assert np.linalg.norm(np.diff(points, axis=0), axis=1).max() <= max(step, 40) + 1e-9
    assert np.linalg.norm(np.diff(line, axis=0), axis=1).max() <= min(step, 40) + 1e-9
    assert np.abs(np.hypot(*circle.T) - 10).max() < 0.011
    assert line[[0, -1]].tolist() == [[0, 0], [40, 7]] and [40, 0] in line.tolist()
    for points in (circle, ring):
        assert np.allclose(points[0], points[-1])
    assert divided([], step, 0.01) == []
