"""Sheet parts as other programs write them: other units, split faces, faces in other orders, a thousandth off."""

from __future__ import annotations

import numpy as np
import pytest
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid, BRepBuilderAPI_Sewing, BRepBuilderAPI_Transform
from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.Interface import Interface_Static
from OCP.STEPControl import STEPControl_AsIs, STEPControl_Writer
from OCP.TopAbs import TopAbs_FACE, TopAbs_SHELL
from OCP.TopoDS import TopoDS

from tests import sheet_parts
from tests.sheet_parts import block, drawn_out, drill, form, joined, mirrored, without
from zuschnitt.core.kernel.step_in import read_step_bytes
from zuschnitt.core.sheet.making import SheetPlan, sheet_part
from zuschnitt.core.solids.explore import each

LEGS, TURNS = [60, 50, 40], [90, -60]


def part():
    """Holes in walls and over a bend, a corner cut out."""
    solid = drawn_out(LEGS, TURNS, 3.0, 2.0, 80.0)
    tools = drill((30, 40, -10), (0, 0, 1), 8, 40), drill((63, 40, 0), (1, 0, 1), 5, 40)
    return without(solid, *tools, block((-1, -1, -1), (12, 12, 10)))


def written(shape, path, unit="MM"):
    """The form of a STEP file in a unit."""
    Interface_Static.SetCVal_s("write.step.unit", unit)
    try:
        writer = STEPControl_Writer()
        writer.Transfer(shape, STEPControl_AsIs)
        writer.Write(str(path))
    finally:
        Interface_Static.SetCVal_s("write.step.unit", "MM")
    return read_step_bytes(path.read_bytes(), "part")


def split(shape):
    """Cut by two planes and joined again: the faces stay parted there."""
    for one, other in (
        (block((-500, -500, -500), (520, 1000, 1000)), block((20, -500, -500), (500, 1000, 1000))),
        (block((-500, -500, -500), (1000, 533, 1000)), block((-500, 33, -500), (1000, 500, 1000))),
    ):
        shape = joined(BRepAlgoAPI_Common(shape, one).Shape(), BRepAlgoAPI_Common(shape, other).Shape())
    return shape


def shuffled(shape):
    """Its faces sewn together in another order."""
    faces = list(each(shape, TopAbs_FACE))
    sewing = BRepBuilderAPI_Sewing(1e-6)
    for k in np.random.default_rng(1).permutation(len(faces)):
        sewing.Add(faces[int(k)])
    sewing.Perform()
    return BRepBuilderAPI_MakeSolid(TopoDS.Shell_s(next(each(sewing.SewedShape(), TopAbs_SHELL)))).Shape()


def far(shape):
    turn, shift = gp_Trsf(), gp_Trsf()
    turn.SetRotation(gp_Ax1(gp_Pnt(1, 2, 3), gp_Dir(1, 1, 0.3)), 1.1)
    shift.SetTranslation(gp_Vec(3000, -2000, 500))
    return BRepBuilderAPI_Transform(shape, shift.Multiplied(turn), True).Shape()


OTHERS = {
    "inches": (lambda shape: shape, "INCH"),
    "metres": (lambda shape: shape, "M"),
    "split faces": (split, "MM"),
    "another order": (shuffled, "MM"),
    "far off": (far, "MM"),
    "all of it, mirrored": (lambda shape: mirrored(far(shuffled(split(shape)))), "INCH"),
}


@pytest.mark.parametrize("change, unit", OTHERS.values(), ids=OTHERS)
def test_a_part_of_another_program_is_the_same(change, unit, tmp_path):
    own = sheet_part(form(part()), SheetPlan()).part
    found = sheet_part(written(change(part()), tmp_path / "a.step", unit), SheetPlan())
    (said,) = found.messages  # the hole through the bend runs obliquely through walls
    assert "not square to it" in said
    assert found.part.flat_area == pytest.approx(own.flat_area, rel=1e-9)
    assert found.part.volume == pytest.approx(own.volume, rel=1e-9)
    assert len(found.part.zones) == len(own.zones)


@pytest.mark.parametrize("thickness, radius", [(2.0, 3.0), (0.6, 0.5)])
def test_places_that_are_off_by_a_thousandth_do_not_matter(thickness, radius, monkeypatch, tmp_path):
    """Radii of arcs through such places are off by several thousandths."""
    exact = sheet_part(form(drawn_out(LEGS, TURNS, radius, thickness, 80.0)), SheetPlan(radius=radius)).part
    for seed in range(8):
        rng, known = np.random.default_rng(seed), {}

        def near(x, y, z, rng=rng, known=known):
            if y == 0.0:  # of the profile, each place alike wherever it is used
                place = (round(x, 6), round(z, 6))
                x, z = known.setdefault(place, (x + rng.uniform(-1e-3, 1e-3), z + rng.uniform(-1e-3, 1e-3)))
            return gp_Pnt(x, y, z)

        with monkeypatch.context() as rough:
            rough.setattr(sheet_parts, "gp_Pnt", near)
            shape = drawn_out(LEGS, TURNS, radius, thickness, 80.0)
        found = sheet_part(written(shape, tmp_path / "a.step"), SheetPlan(radius=radius))
        assert not found.messages and len(found.part.zones) == 5, seed
        assert found.part.flat_area == pytest.approx(exact.flat_area, rel=1e-4)
        assert found.part.thickness == pytest.approx(thickness, abs=1.5e-3)
