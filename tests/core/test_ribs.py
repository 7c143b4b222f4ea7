"""Interlocking ribs: areas and slots against closed forms, and whether they go together."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
import trimesh

from zuschnitt.core.errors import CannotBeDone, Refused
from zuschnitt.core.files.form_file import read_form
from zuschnitt.core.form.build import domed_lid, turned_body
from zuschnitt.core.ribs.layout import laid_out
from zuschnitt.core.ribs.lightening import lightened
from zuschnitt.core.ribs.planes import Family, Spread, family, upright
from zuschnitt.core.ribs.ribs import interlocking, slot_width

X, Y = np.array([1.0, 0, 0]), np.array([0, 1.0, 0])


def mesh_form(mesh):
    return read_form(mesh.export(file_type="stl"), "form.stl", unit="mm")


def ribs_of(form, spacing=20.0, thickness=3.0, fit=0.0, directions=(X, Y), **more):
    families = [
        family(form, letter, way, Spread(spacing), thickness) for letter, way in zip("XY", directions, strict=True)
    ]
    return interlocking(form, *families, thickness, fit, **more)


@pytest.fixture(scope="module")
def ball(tmp_path_factory):
    from zuschnitt.core.form.kernel import read_step

    from ..parts import write

    path = tmp_path_factory.mktemp("ribs") / "ball.step"
    write(path, "ball")
    return read_step(path)


def test_ribs_of_a_ball_are_circles_with_slots_half_their_crossings(ball):
    made = ribs_of(ball, fit=0.2)
    assert [round(rib.frame.at, 4) for rib in made.ribs] == 2 * [-40.0, -20.0, 0.0, 20.0, 40.0]
    for rib in made.ribs:
        radius = np.sqrt(2500 - rib.frame.at**2)
        for slot in rib.slots:
            height = 2 * np.sqrt(radius**2 - slot.at[0] ** 2)
            assert slot.width == pytest.approx(3.2) and slot.depth == pytest.approx(height / 2, rel=2e-4)
            assert slot.at[1] == pytest.approx(0, abs=5e-3)
            assert slot.opens == ("up" if rib.name.startswith("X") else "down")
        cut = sum(slot.width * slot.depth for slot in rib.slots)
        assert rib.area.area + cut == pytest.approx(np.pi * radius**2, rel=2e-3)
        assert rib.pieces == 1
    assert made.possible and len(made.groups) == 1 and made.reasons == ()


def test_plates_put_together_do_not_overlap(ball):
    """Where two plates cross, what one keeps the other leaves free, through all of its thickness."""
    made = ribs_of(ball, spacing=30)
    levels = np.linspace(-60, 60, 2401)
    for one in (rib for rib in made.ribs if rib.name.startswith("X")):
        for two in (rib for rib in made.ribs if rib.name.startswith("Y")):
            foot = np.array([one.frame.at, two.frame.at, 0])
            both = np.ones(len(levels), bool)
            for rib, mate in ((one, two), (two, one)):
                along = float(foot @ rib.frame.along)
                inside = [
                    shapely.contains_xy(rib.area, np.full(len(levels), along + off), levels) for off in (-1.49, 0, 1.49)
                ]
                both &= np.any(inside, axis=0)
                assert mate.name in {slot.other for slot in rib.slots} or not inside[1].any()
            assert both.sum() <= 1


def test_a_box_at_an_angle_has_wider_slots():
    turned = np.array([np.cos(np.radians(30)), np.sin(np.radians(30)), 0])
    assert slot_width(3, 0.1, X, turned) == pytest.approx(
        3 * (1 + np.cos(np.radians(30))) / np.sin(np.radians(30)) + 0.1
    )
    made = ribs_of(mesh_form(trimesh.creation.box((120, 90, 40))), 30, directions=(X, turned))
    assert {round(slot.width, 6) for rib in made.ribs for slot in rib.slots} == {round(slot_width(3, 0, X, turned), 6)}
    assert all(slot.depth == pytest.approx(20) for rib in made.ribs for slot in rib.slots)


def test_through_a_hollow_they_cross_twice_and_that_is_said():
    ring = trimesh.creation.annulus(30, 50, 40)
    ring.apply_transform(trimesh.transformations.rotation_matrix(np.pi / 2, [1, 0, 0]))
    made = ribs_of(mesh_form(ring), 20)
    assert not made.possible and any("cross more than once" in reason for reason in made.reasons)


def test_inner_and_outer_outlines_enclose_the_middle_one():
    cone = mesh_form(trimesh.creation.cone(50, 100, sections=64))
    inner, middle, outer = (ribs_of(cone, 25, 6, outline=kind) for kind in ("inner", "middle", "outer"))
    for a, b, c in zip(inner.ribs, middle.ribs, outer.ribs, strict=True):
        assert a.frame.at == b.frame.at == c.frame.at
        bare = [rib.area.area + sum(s.width * s.depth for s in rib.slots) for rib in (a, b, c)]
        assert bare[0] <= bare[1] + 1 and bare[1] <= bare[2] + 1


def test_open_surfaces_are_closed_down_to_their_lowest_level_and_said():
    made = ribs_of(domed_lid(240, 180, 36, 40, 0), 60)
    assert made.ribs and all("closed down" in rib.mended for rib in made.ribs)
    assert any("closed down" in message for message in made.messages)


def test_where_planes_stand():
    cone = turned_body([(60, 0), (200, 420)])
    assert family(cone, "X", X, Spread(100.0, start=-150.0), 3).at.tolist() == [-150, -50, 50, 150]
    assert len(family(cone, "X", X, Spread(count=4), 3).at) == 4
    assert family(cone, "X", X, Spread(listed=(90.0, -30.0)), 3).at.tolist() == [-30, 90]


@pytest.mark.parametrize(("spread", "why"), [(Spread(2.0), "space them wider"), (Spread(), "neither a spacing"),
    (Spread(listed=(900.0,)), "meets the form"), (Spread(0.5), "space them wider")])  # fmt: skip
def test_spreads_that_give_no_ribs_are_refused(spread, why):
    with pytest.raises(Refused, match=why):
        family(turned_body([(60, 0), (200, 420)]), "X", X, spread, 3)


def test_ribs_that_never_meet_are_refused():
    with pytest.raises(Refused, match="the same way"):
        upright(Family("X", X, np.zeros(1)), Family("Y", X, np.zeros(1)))
    two = mesh_form(trimesh.util.concatenate([trimesh.creation.box((20, 20, 20)),
        trimesh.creation.box((20, 20, 20), transform=trimesh.transformations.translation_matrix([100, 100, 0]))]))  # fmt: skip
    with pytest.raises(CannotBeDone, match="crosses another"):
        families = (Family("X", X, np.array([0.0])), Family("Y", Y, np.array([100.0])))
        interlocking(two, *families, 3.0)


def test_the_layout_has_each_piece_once_apart_and_named(ball):
    made = ribs_of(ball)
    drawing = laid_out(made)
    outlines = [shapely.Polygon(c.flattened(1e-4)) for c in drawing if c.layer == "CUT"]
    assert len(outlines) == len(made.ribs)
    assert sum(p.area for p in outlines) == pytest.approx(sum(rib.area.area for rib in made.ribs), rel=1e-4)
    tree = shapely.STRtree(outlines)
    assert all(len(tree.query(p, predicate="intersects")) == 1 for p in outlines)
    assert any(c.layer == "TEXT" for c in drawing)


# --- below open forms ------------------------------------------------------------------------------


def lid_ribs(**more):
    return ribs_of(LID, 60.0, 3.0, **more)


LID = domed_lid(240, 180, 40, 0, 0)


def whole(rib):
    """The area of a rib with its slots filled."""
    return rib.area.area + sum(slot.depth * slot.width for slot in rib.slots)


def test_ribs_of_an_open_form_reach_down_to_a_floor_or_are_a_band():
    high, low, band = lid_ribs(floor=-20.0), lid_ribs(floor=-50.0), lid_ribs(band=30.0)
    for a, b, c in zip(high.ribs, low.ribs, band.ribs, strict=True):
        width = 180.0 if a.name.startswith("X") else 240.0
        assert whole(b) - whole(a) == pytest.approx(30 * width, rel=2e-3)
        assert c.area.area == pytest.approx(30 * width - sum(s.depth * s.width for s in c.slots), rel=2e-3)
        assert a.area.bounds[1] == pytest.approx(-20, abs=1e-9) and b.area.bounds[1] == pytest.approx(-50, abs=1e-9)
    assert "the floor at -20 mm" in high.messages[0]
    above = lid_ribs(floor=25.0)  # the corners of the lid lie below that floor
    assert all(rib.area.bounds[1] >= 25 - 1e-9 for rib in above.ribs)


def test_holes_that_make_ribs_lighter_keep_their_margin():
    ribs = lid_ribs(floor=-100.0).ribs
    lighter = [lightened(rib, 10.0) for rib in ribs]
    assert sum(r.area.area for r in lighter) < 0.8 * sum(r.area.area for r in ribs)
    for before, after in zip(ribs, lighter, strict=True):
        assert len(shapely.get_parts(after.area)) == 1
        for hole in shapely.get_parts(before.area.difference(after.area)):
            assert before.area.exterior.distance(hole) >= 10 - 0.02
    assert lightened(ribs[0], 80.0) is ribs[0]


def test_what_was_mended_is_a_note_and_what_holds_poorly_a_warning():
    assert lid_ribs(floor=-50.0).sound and not lid_ribs(band=3.0).sound
