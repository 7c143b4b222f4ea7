"""Areas of faces whose walks do not quite meet: they depend on the gaps, and not on where the origin is."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from scipy.interpolate import make_interp_spline

from zuschnitt.core.form.area import face_area
from zuschnitt.core.form.form import Coedge, Face
from zuschnitt.core.geometry.curves import Line
from zuschnitt.core.geometry.surfaces import Cylinder, Frame, Plane, SplineSurface

GAP = 0.01


@pytest.mark.parametrize("far", [0.0, 1000.0])
@pytest.mark.parametrize("rolled", [False, True])
def test_gaps_count_once(far, rolled):
    """A square of 10 mm, each side of which begins and ends 0.01 mm short of the corner, or beyond it."""
    frame = Frame(np.zeros(3), np.eye(3))
    surface = Cylinder(frame, 1.0) if rolled else Plane(frame)
    corners = np.array([[0.0, 0], [10, 0], [10, 10], [0, 10]]) + far
    for short in (GAP, -GAP):
        sides = zip(corners, np.roll(corners, -1, axis=0), strict=True)
        ends = [(a + short * (b - a) / 10, b - short * (b - a) / 10) for a, b in sides]
        loop = tuple(Coedge(k, Line.between(a, b), 0.0, 1.0) for k, (a, b) in enumerate(ends))
        face = Face(1, surface, False, (loop,), 0.0)
        assert face_area(face) == pytest.approx(100, abs=4 * GAP**2)


def test_what_comes_round_is_no_gap():
    """A tube 1,000 mm long, 2 mm round, over parameters of 1,000 along it and 1 round it, with a step in one end."""
    t = np.linspace(0, 1, 129)
    circle = np.column_stack([0 * t, np.cos(2 * np.pi * t), np.sin(2 * np.pi * t)]) / np.pi
    round_it = make_interp_spline(t, circle, 5)
    control = np.stack([round_it.c, round_it.c + [1000, 0, 0]])
    surface = SplineSurface(np.repeat([0.0, 1000.0], 2), round_it.t, control, 1, 5)
    ends = [(1000, 0), (1000, 0.5), (900, 0.5), (900, 1), (1000, 1)], [(0, 1), (0, 0)]
    loops = tuple(
        tuple(Coedge(k, Line.between(a, b), 0.0, 1.0) for k, (a, b) in enumerate(pairwise(way))) for way in ends
    )
    assert face_area(Face(1, surface, False, loops, 0.0)) == pytest.approx(2 * 950, rel=1e-7)
