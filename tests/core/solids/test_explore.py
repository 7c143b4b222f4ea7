"""How large a shape of the kernel is, against closed forms; also of faces with long edges, of which the kernel's own
adaptive rule misses parts."""

from __future__ import annotations

import numpy as np
import pytest
from OCP.BRepAlgoAPI import BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire, BRepBuilderAPI_Transform
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakePrism,
    BRepPrimAPI_MakeSphere,
    BRepPrimAPI_MakeTorus,
)
from OCP.gp import gp_Ax1, gp_Ax2, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec

from tests import parts
from zuschnitt.core.geometry.smooth import smooth_through
from zuschnitt.core.kernel.edges import curve_edge
from zuschnitt.core.solids.explore import measures, volume


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


def crossed():
    """Two cylinders across each other, of radius 20 and 12."""
    one = BRepPrimAPI_MakeCylinder(20, 80).Shape()
    other = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(-50, 0, 40), gp_Dir(1, 0, 0)), 12, 100).Shape()
    return BRepAlgoAPI_Fuse(one, other).Shape()


def steinmetz(a: float, b: float) -> float:
    """What two cylinders square to each other, their axes crossing, have in common."""
    z = np.linspace(0, 1, 200_001)  # z = b sin(t) removes the root at the ends
    t = z * np.pi / 2
    return float(8 * np.trapezoid(np.sqrt(a**2 - (b * np.sin(t)) ** 2) * (b * np.cos(t)) ** 2, t))


BODIES = {
    "ball": (lambda: BRepPrimAPI_MakeSphere(30).Shape(), 4 / 3 * np.pi * 30**3, 4 * np.pi * 30**2),
    "ring": (lambda: BRepPrimAPI_MakeTorus(50, 12).Shape(), 2 * np.pi**2 * 50 * 144, 4 * np.pi**2 * 50 * 12),
    "cone": (
        lambda: BRepPrimAPI_MakeCone(40, 10, 70).Shape(),
        np.pi * 70 / 3 * (1600 + 400 + 100),
        np.pi * (1600 + 100 + 50 * np.hypot(30, 70)),
    ),
    "quarter": (lambda: BRepPrimAPI_MakeCylinder(25, 60, np.pi / 2).Shape(), np.pi * 625 * 15,
                np.pi * 625 / 2 + 60 * 50 + np.pi / 2 * 25 * 60),
    "crossed": (crossed, np.pi * 400 * 80 + np.pi * 144 * 100 - steinmetz(20, 12), None),
}  # fmt: skip


@pytest.mark.parametrize("name", BODIES)
@pytest.mark.parametrize("seed", range(3))
def test_bodies_wherever_they_stand(name, seed):
    """Turned, moved, at times mirrored and inside out, volume and area are those of the closed form."""
    make, cubic_mm, square_mm = BODIES[name]
    random = np.random.default_rng(seed)
    move, turn = gp_Trsf(), gp_Trsf()
    turn.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(*random.normal(size=3))), float(random.uniform(0, 6)))
    if seed == 1:
        move.SetMirror(gp_Ax2(gp_Pnt(1, 2, 3), gp_Dir(1, 1, 0)))
    else:
        move.SetTranslation(gp_Vec(*random.uniform(-900, 900, 3)))
    shape = BRepBuilderAPI_Transform(make(), move.Multiplied(turn), True).Shape()
    area, found = measures(shape)
    assert found == pytest.approx(cubic_mm, rel=1e-8)
    assert square_mm is None or area == pytest.approx(square_mm, rel=1e-8)
    assert volume(shape.Reversed()) == pytest.approx(-cubic_mm, rel=1e-8)
