"""Walls that are rolled to a cone: flat sizes against closed forms, volumes against the kernel, and every stage."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakePolygon, BRepBuilderAPI_Transform
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism, BRepPrimAPI_MakeRevol
from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec

from tests.sheet_parts import drill, form, joined, mirrored, without
from zuschnitt.core.errors import CannotBeDone
from zuschnitt.core.sheet.allowance import ByK
from zuschnitt.core.sheet.body import folded_body
from zuschnitt.core.sheet.making import SheetPlan, sheet_part
from zuschnitt.core.sheet.pattern import sheet_blank
from zuschnitt.core.solids.bodies import made_body
from zuschnitt.core.solids.shape import shape_of


def profile(wide, narrow, high, thick):
    """The section of a sheet on a cone, its ends square to it, with the axis z."""
    slant = np.arctan2(wide - narrow, high)
    inwards = thick * np.array([np.cos(slant), np.sin(slant)])
    outer = np.array([[wide, 0.0], [narrow, high]])
    polygon = BRepBuilderAPI_MakePolygon()
    for x, z in (*outer, *(outer[::-1] - inwards)):
        polygon.Add(gp_Pnt(float(x), 0, float(z)))
    polygon.Close()
    return BRepBuilderAPI_MakeFace(polygon.Wire()).Face()


def cone(wide=120.0, narrow=60.0, high=150.0, thick=2.0, turn=200.0):
    axis = gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1))
    return BRepPrimAPI_MakeRevol(profile(wide, narrow, high, thick), axis, np.radians(turn)).Shape()


SIZES = {"wide": 120.0, "narrow": 60.0, "high": 150.0, "thick": 2.0}


def winged(long=40.0, **sizes):
    """A cone that runs on into a flat wall where it begins."""
    wing = BRepPrimAPI_MakePrism(profile(**{k: sizes.get(k, v) for k, v in SIZES.items()}), gp_Vec(0, -long, 0)).Shape()
    return joined(cone(**sizes), wing)


def winged_twice(long=40.0, turn=120.0, **sizes):
    """A cone that runs on into a flat wall at both of its ends."""
    wing = BRepPrimAPI_MakePrism(profile(**{k: sizes.get(k, v) for k, v in SIZES.items()}), gp_Vec(0, long, 0)).Shape()
    place = gp_Trsf()
    place.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), np.radians(turn))
    return joined(winged(long, turn=turn, **sizes), BRepBuilderAPI_Transform(wing, place).Shape())


def volume(shape):
    return made_body("a", shape).volume


def laid(wide, narrow, high, thick, turn, k):
    """The area of the neutral layer of such a cone: a part of a ring, by its radii about the apex."""
    slant = np.arctan2(wide - narrow, high)
    depth = thick * (1 - k)
    rho = (np.array([wide, narrow]) - depth * np.cos(slant)) / np.sin(slant)
    return np.radians(turn) * np.sin(slant) / 2 * abs(rho[0] ** 2 - rho[1] ** 2)


@settings(deadline=None, max_examples=6)
@given(
    wide=st.floats(40, 200),
    part=st.floats(0.3, 0.95),
    high=st.floats(30, 300),
    thick=st.floats(0.5, 3),
    turn=st.floats(20, 350),
    k=st.floats(0.2, 0.5),
    turned=st.booleans(),
    inner=st.booleans(),
)
def test_a_part_of_a_cone_is_laid_flat_and_rolled_up_again(wide, part, high, thick, turn, k, turned, inner):
    narrow = part * wide
    solid = cone(wide, narrow, high, thick, turn)
    shape = mirrored(solid) if turned else solid
    made = sheet_part(form(shape), SheetPlan(rule=ByK(k), other_side=inner)).part
    assert made.thickness == pytest.approx(thick, rel=1e-9)
    assert made.flat_area == pytest.approx(laid(wide, narrow, high, thick, turn, k), rel=1e-9)
    assert made.volume == pytest.approx(volume(solid), rel=1e-8)
    for stage in (0.0, 0.35, 1.0):
        body = folded_body(made, stage)
        assert volume(shape_of(body)) == pytest.approx(made.volume_at(stage), rel=1e-7)
        assert sheet_blank(made, body, stage).figures.area_blank == pytest.approx(made.flat_area, rel=1e-7)
    again = sheet_part(folded_body(made), SheetPlan(rule=ByK(k))).part
    assert again.flat_area == pytest.approx(made.flat_area, rel=1e-7)


def test_the_stages_are_the_same_cone_bent_less():
    made = sheet_part(form(cone()), SheetPlan(rule=ByK(0.44))).part
    roll = made.zones[0].roll
    half = made.rolled(0, 0.5)
    assert np.tan(half.half_angle) == pytest.approx(2 * np.tan(roll.half_angle))
    flat = np.random.default_rng(3).uniform(-20, 20, (50, 2))
    for stage in (0.2, 0.7, 1.0):  # the neutral layer keeps its lengths, measured by differences
        roll_here = made.rolled(0, stage)
        height = roll_here.way * roll_here.depth
        step = 1e-5
        x, y = (
            (made.surface(0, flat + d, stage, height)[0] - made.surface(0, flat - d, stage, height)[0]) / (2 * step)
            for d in (np.array([step, 0.0]), np.array([0.0, step]))
        )
        assert np.linalg.norm(x, axis=1) == pytest.approx(1, abs=1e-8)
        assert np.linalg.norm(y, axis=1) == pytest.approx(1, abs=1e-8)
        assert np.einsum("ij,ij->i", x, y) == pytest.approx(0, abs=1e-8)
        _, a, b, _ = made.surface(0, flat, stage)
        assert np.abs(a - x).max() < 1e-7 and np.abs(b - y).max() < 1e-7


@pytest.mark.parametrize("inner", [False, True])
def test_a_hole_in_a_cone_stays_in_it(inner):
    solid = cone(turn=150.0)
    solid = without(solid, drill((0, 0, 70), (0.3, 1, 0), 12.0, 200))
    made = sheet_part(form(solid), SheetPlan(rule=ByK(0.5), other_side=inner)).part
    assert [len(zone.loops) for zone in made.zones] == [2]
    # the hole's walls stand square to the sheet afterwards, not along the drill, so the volumes differ by little
    assert made.volume == pytest.approx(volume(solid), rel=2e-4)
    for stage in (0.0, 0.5, 1.0):
        body = folded_body(made, stage)
        assert volume(shape_of(body)) == pytest.approx(made.volume_at(stage), rel=1e-7)
    sheet_blank(made, folded_body(made))


@pytest.mark.parametrize("inner", [False, True])
def test_a_cone_runs_on_into_a_wall(inner):
    solid = winged(turn=120.0)
    made = sheet_part(form(solid), SheetPlan(rule=ByK(0.4), other_side=inner)).part
    assert sorted(zone.roll is None for zone in made.zones) == [False, True] and not any(z.bend for z in made.zones)
    assert made.flat_area == pytest.approx(laid(120, 60, 150, 2, 120, 0.4) + 40 * np.hypot(60, 150), rel=1e-9)
    assert made.volume == pytest.approx(volume(solid), rel=1e-8)
    for stage in (0.0, 0.6, 1.0):
        body = folded_body(made, stage)
        assert volume(shape_of(body)) == pytest.approx(made.volume_at(stage), rel=1e-7)
        sheet_blank(made, body, stage)


def test_a_cone_in_two_faces_is_one_wall():
    axis = gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1))
    one = cone(turn=80.0)
    from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
    from OCP.gp import gp_Trsf

    move = gp_Trsf()
    move.SetRotation(axis, np.radians(80.0))
    solid = joined(one, BRepBuilderAPI_Transform(cone(turn=60.0), move, True).Shape())
    made = sheet_part(form(solid), SheetPlan(rule=ByK(0.44))).part
    assert len(made.zones) == 1 and made.flat_area == pytest.approx(laid(120, 60, 150, 2, 140, 0.44), rel=1e-9)
    assert made.volume == pytest.approx(volume(solid), rel=1e-8)
    assert volume(shape_of(folded_body(made))) == pytest.approx(volume(solid), rel=1e-7)


def test_a_whole_cone_must_be_opened():
    whole = form(cone(turn=360.0))
    with pytest.raises(CannotBeDone, match="comes round to itself"):
        sheet_part(whole, SheetPlan(rule=ByK(0.44)))
    made = sheet_part(whole, SheetPlan(rule=ByK(0.44), opened="auto"))
    assert len(made.seams) == 1 and made.seams[0].length == pytest.approx(np.hypot(60, 150))
    assert made.part.flat_area == pytest.approx(laid(120, 60, 150, 2, 360, 0.44), rel=1e-9)
    body = folded_body(made.part)
    assert volume(shape_of(body)) == pytest.approx(volume(cone(turn=360.0)), rel=1e-5)
    assert sheet_blank(made.part, body).figures.pieces == 1


def test_a_small_hole_drilled_askew_into_a_flat_cone_is_laid_flat():
    solid = without(cone(199.0, 102.9, 54.1, 1.1, 79.0), drill((0, 0, 35), (np.cos(0.7), np.sin(0.7), -0.15), 3, 400))
    made = sheet_part(form(solid), SheetPlan(rule=ByK(0.44))).part
    assert volume(shape_of(folded_body(made))) == pytest.approx(made.volume, rel=1e-7)
    assert made.volume == pytest.approx(volume(solid), rel=1e-5)
