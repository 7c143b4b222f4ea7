"""How large a shape of the kernel is, against closed forms; also of faces with long edges, of which the kernel's own
adaptive rule misses parts."""

from __future__ import annotations

import numpy as np
import pytest
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.gp import gp_Vec

from tests import parts
from zuschnitt.core.geometry.smooth import smooth_through
from zuschnitt.core.kernel.edges import curve_edge
from zuschnitt.core.solids.explore import volume


@pytest.mark.parametrize(
    ("name", "cubic_mm"),
    [("ball_splines", 4 / 3 * np.pi * 50**3), ("ring", None), ("gore_splines", 4 / 3 * np.pi * 50**3 / 8)],
)
def test_round_parts_of_splines(name, cubic_mm):
    shape = parts.PARTS[name]()
    assert volume(shape) == pytest.approx(cubic_mm or 2 * np.pi**2 * 50 * 20**2, rel=1e-8)


def test_a_plate_whose_outline_is_one_long_spline():
    angle = np.linspace(0, 2 * np.pi, 400)
    radius = 40 + 3 * np.cos(7 * angle)  # area: half of the integral of its square
    points = np.column_stack([radius * np.cos(angle), radius * np.sin(angle), np.zeros(400)])
    edge = curve_edge(smooth_through(points))
    plate = BRepPrimAPI_MakePrism(
        BRepBuilderAPI_MakeFace(BRepBuilderAPI_MakeWire(edge).Wire()).Face(), gp_Vec(0, 0, 2.0)
    ).Shape()
    assert volume(plate) == pytest.approx(2 * np.pi * (40**2 + 3**2 / 2), rel=1e-6)
