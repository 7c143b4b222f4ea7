"""Interlocking ribs: areas and slots against closed forms, and whether they go together."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely
import shapely.affinity
import trimesh

from zuschnitt.core.errors import CannotBeDone, Refused
from zuschnitt.core.files.dxf import dxf_bytes
from zuschnitt.core.files.form_file import read_form
from zuschnitt.core.form.build import domed_lid, turned_body
from zuschnitt.core.plane.lettering import lettering
from zuschnitt.core.ribs.advising import advice
from zuschnitt.core.ribs.base_plate import on_a_base
from zuschnitt.core.ribs.fans import fan, square_to_curve
from zuschnitt.core.ribs.layout import laid_out, marked, placed
from zuschnitt.core.ribs.lightening import lightened
from zuschnitt.core.ribs.planes import Family, Spread, family, upright
from zuschnitt.core.ribs.rib import Making
from zuschnitt.core.ribs.ribs import interlocking
from zuschnitt.core.ribs.rods import on_rods
from zuschnitt.core.ribs.slots import Tool, slot_width
from zuschnitt.core.ribs.standing import faces_of
from zuschnitt.standins.laser.machine import Laser, run

X, Y = np.array([1.0, 0, 0]), np.array([0, 1.0, 0])


def mesh_form(mesh):
    return read_form(mesh.export(file_type="stl"), "form.stl", unit="mm")


def ribs_of(form, spacing=20.0, thickness=3.0, fit=0.0, directions=(X, Y), **more):
    families = [
        family(form, letter, way, Spread(spacing), thickness) for letter, way in zip("XY", directions, strict=True)
    ]
    return interlocking(form, *families, Making(thickness, fit, **more))


@pytest.fixture(scope="module")
def ball(tmp_path_factory):
    from tests.parts import write
    from zuschnitt.core.kernel.step_in import read_step

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


def test_slots_that_leave_little_beside_them_are_named_with_their_place():
    """A block of 100: a rib 7 mm from its end leaves 7 - 3/2 - 0.2/2 mm beside the slot for it; 1.5 are wanted."""
    block = mesh_form(trimesh.creation.box((100, 100, 40)))
    for off, left in ((7.0, None), (2.5, 0.9)):
        standing = [Family(letter, way, np.array([-50 + off, 0.0])) for letter, way in (("X", X), ("Y", Y))]
        made = interlocking(block, *standing, Making(3.0, 0.2))
        if left is None:
            assert made.sound
            continue
        assert made.possible and not made.sound and len(made.troubles) == 4
        assert all(f"leaves {left:g} mm" in trouble.words for trouble in made.troubles)
        assert {trouble.ribs for trouble in made.troubles} == {("X1", "Y1"), ("X2", "Y1"), ("Y1", "X1"), ("Y2", "X1")}
        assert sorted(np.abs(np.vstack([trouble.at for trouble in made.troubles])).round(6).tolist()) == sorted(
            [[47.5, 47.5, 0], [0, 47.5, 0], [47.5, 47.5, 0], [47.5, 0, 0]]
        )


def test_plates_in_space_are_closed_and_have_their_volume(ball):
    made = ribs_of(ball, spacing=30)
    for rib in made.ribs:
        corners = faces_of(rib, 3.0)
        volume = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6
        assert volume == pytest.approx(3.0 * rib.area.area, rel=1e-9)


def turned(mesh, axis, degrees=90.0):
    mesh.apply_transform(trimesh.transformations.rotation_matrix(np.radians(degrees), axis))
    return mesh


def test_through_a_hollow_they_cross_twice_and_that_is_said():
    inner = trimesh.creation.icosphere(3, 45)
    inner.invert()
    shell = trimesh.util.concatenate([trimesh.creation.icosphere(3, 60), inner])
    made = ribs_of(mesh_form(shell), 20)
    assert not made.possible and any("cross more than once" in reason for reason in made.reasons)
    twice = [trouble for trouble in made.troubles if "more than once" in trouble.words]
    assert all(len(trouble.at) == 2 and trouble.at[:, 2].sum() == pytest.approx(0, abs=1e-6) for trouble in twice)
    assert made.stopped >= {name for trouble in twice for name in trouble.ribs}


def pushed_in(made):
    """Whether each plate can be moved to its place in small steps, through those that stand there already."""
    placed = [rib for rib in made.ribs if not made.one_by_one and rib.name[0] == made.ribs[0].name[0]]
    for rib in made.ribs[len(placed) :]:
        sign = float(np.sign(rib.comes_from @ rib.frame.slides))
        mates = [other for other in placed if abs(rib.frame.normal @ other.frame.normal) < 1 - 1e-9]
        for moved in (0, 0.5, 2, 7, 15, 30, 45, 60, 90):
            if any(overlap(rib, other, made.thickness, sign * moved) for other in mates):
                return False
        placed.append(rib)
    return True


@pytest.mark.parametrize("halves", ["up", "down"])
@pytest.mark.parametrize(
    "standing, turns, one_by_one",
    [
        (lambda: turned(trimesh.creation.annulus(30, 50, 40), [1, 0, 0]), True, None),  # a ring on edge
        (lambda: turned(trimesh.creation.torus(50, 14), [0, 1, 0]), True, None),
        (lambda: trimesh.creation.torus(50, 14), False, False),  # lying
        (lambda: turned(trimesh.creation.annulus(30, 50, 40), [0, 1, 0]), True, None),
    ],
)
def test_pieces_of_rings_go_in_from_above_and_from_below(standing, turns, one_by_one, halves):
    """The upper and the lower piece of a section on both sides of the hole: some slots up, some down."""
    form = mesh_form(standing())
    families = [
        Family(letter, way, np.array([-44.0, -10.0, 10.0, 44.0])) for letter, way in zip("XY", (X, Y), strict=True)
    ]
    families = [replace(f, at=f.at / 4) if _thin(form, f.normal) else f for f in families]
    made = interlocking(form, *families, Making(2.0, 0.1, halves=halves))
    assert made.possible, made.reasons
    ways = {slot.opens for rib in made.ribs if rib.name[0] == "X" for slot in rib.slots}
    assert ways == ({"up", "down"} if turns else {halves})
    assert any("turned over" in note for note in made.notes) is turns
    assert one_by_one is None or made.one_by_one is one_by_one
    assert pushed_in(made)
    away = {rib.name: off for rib, off in made.played(0.0, 100.0)}
    assert all(
        np.linalg.norm(off) == pytest.approx(100) for name, off in away.items() if name[0] != made.ribs[0].name[0]
    )
    assert all(np.linalg.norm(off) == 0 for _, off in made.played(1.0, 100.0))


def test_what_is_wrong_is_marked_on_the_flat_pieces():
    made = ribs_of(mesh_form(trimesh.creation.cone(60, 90, sections=96)), 11, 5)
    marks = marked(made)
    assert len(marks) == sum(len(each.at) for each in made.troubles for name in each.ribs if any(
        rib.name == name for rib in made.ribs)) > 0  # fmt: skip
    sheet = shapely.union_all([shapely.affinity.translate(rib.area, *shift) for rib, shift in placed(made)])
    assert shapely.dwithin(sheet, shapely.points(marks), 5.0).all()


def bar(path, radius=14.0, sides=24):
    """A round bar along a path (n, 3), closed at its ends."""
    way = np.gradient(path, axis=0)
    side = np.cross(way, [0.3, 0.2, 1.0])
    side /= np.linalg.norm(side, axis=1, keepdims=True)
    other = np.cross(side, way)
    other /= np.linalg.norm(other, axis=1, keepdims=True)
    angle = np.linspace(0, 2 * np.pi, sides, endpoint=False)[:, None, None]
    rings = np.moveaxis(path + radius * (np.cos(angle) * side + np.sin(angle) * other), 0, 1)
    made = trimesh.Trimesh(
        np.vstack([rings.reshape(-1, 3), path[[0, -1]]]),
        [
            triangle
            for i in range(len(path) - 1)
            for k in range(sides)
            for a, b in [(i * sides + k, i * sides + (k + 1) % sides)]
            for triangle in ((a, b, b + sides), (a, b + sides, a + sides))
        ]
        + [(len(path) * sides, (k + 1) % sides, k) for k in range(sides)]
        + [(len(path) * sides + 1, (len(path) - 1) * sides + k, (len(path) - 1) * sides + (k + 1) % sides)
           for k in range(sides)],
    )  # fmt: skip
    made.fix_normals()
    return made


def test_what_is_said_to_go_together_does():
    """Plates at random places through an open ring: some from above, some from below, some between others."""
    turn = np.linspace(0.5, 2 * np.pi - 0.5, 90)
    ring = mesh_form(turned(bar(50 * np.stack([np.cos(turn), 0 * turn, np.sin(turn)], axis=1)), [0, 0, 1], 30))
    random = np.random.default_rng(6)
    seen = []
    for _ in range(14):
        places = [np.sort(random.choice(np.arange(-60, 61, 7.0), random.integers(2, 5), replace=False)) for _ in "XY"]
        families = [Family(letter, way, at) for letter, way, at in zip("XY", (X, Y), places, strict=True)]
        try:
            made = interlocking(ring, *families, Making(2.0, 0.1, halves=str(random.choice(["up", "down"]))))
        except CannotBeDone:
            continue
        if made.possible:
            assert pushed_in(made), places
        seen.append((made.possible, made.one_by_one))
    assert (True, True) in seen and (False, False) in seen


def standing(rib, thickness):
    """The plate as a closed mesh, extruded by another library, without what is thinner than 0.002 mm."""
    plate = trimesh.creation.extrude_polygon(rib.area.buffer(-1e-3).simplify(1e-6), thickness)
    plate.vertices = rib.frame.space(plate.vertices[:, :2]) + (plate.vertices[:, 2:] - thickness / 2) * rib.frame.normal
    plate.fix_normals()
    return plate


def test_tips_that_reach_into_the_thickness_of_other_plates_are_cut_back():
    """No two plates have anything in common, not even where their middles end before they cross."""
    made = ribs_of(mesh_form(trimesh.creation.icosphere(4, 60)), spacing=7, fit=0.02)
    assert made.possible
    assert [note for note in made.notes if "cut back by less than 1.5 mm" in note]
    plates = {rib.name: standing(rib, 3.0) for rib in made.ribs}
    for one in ("X1", "X2", "X4", "X8"):
        for two in (name for name in plates if name[0] == "Y"):
            both = trimesh.boolean.intersection([plates[one], plates[two]], engine="manifold")
            assert both.is_empty or both.volume < 1e-6, (one, two)


def _thin(form, way):
    points = np.vstack([mesh.points for mesh in form.meshes])
    return np.ptp(points @ way) < 45


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


@pytest.mark.parametrize("at", [-7.0, 0.0, 7.0])
def test_a_section_through_a_hole_in_a_dome_goes_down_to_the_floor_too(at):
    """It is bridged over the hole of 20, closed along the rim, and goes on straight down: by its area, from the dome."""
    lid = domed_lid(240, 180, 36, 40, 20)
    families = [Family("X", X, np.array([at, 80.0])), Family("Y", Y, np.array([-50.0, 50.0]))]
    with_floor, without = (interlocking(lid, *families, Making(3.0, floor=floor)) for floor in (-60.0, None))
    deeper, rib = with_floor.ribs[0], without.ribs[0]
    assert deeper.pieces == rib.pieces == 1 and shapely.is_valid(deeper.area)
    left, low, right, high = rib.area.bounds
    assert deeper.area.bounds == pytest.approx((left, -60, right, high))
    slots = [sum(s.width * s.depth for s in made.slots) for made in (deeper, rib)]
    assert deeper.area.area + slots[0] - rib.area.area - slots[1] == pytest.approx(
        (right - left) * (60 + low), rel=2e-2
    )
    assert "floor at -60 mm" in deeper.mended


def test_where_planes_stand():
    cone = turned_body([(60, 0), (200, 420)])
    assert family(cone, "X", X, Spread(100.0, start=-150.0), 3).at.tolist() == [-150, -50, 50, 150]
    assert len(family(cone, "X", X, Spread(count=4), 3).at) == 4
    assert family(cone, "X", X, Spread(listed=(90.0, -30.0)), 3).at.tolist() == [-30, 90]


@pytest.mark.parametrize(("spread", "why"), [(Spread(2.0), "space them wider"), (Spread(), "neither a spacing"),
    (Spread(listed=(900.0,)), "meets the form"), (Spread(listed=(0.0, 2.0)), "2 mm apart"),
    (Spread(listed=(5.0, 5.0)), "0 mm apart"), (Spread(0.5), "space them wider")])  # fmt: skip
def test_spreads_that_give_no_ribs_are_refused(spread, why):
    with pytest.raises(Refused, match=why):
        family(turned_body([(60, 0), (200, 420)]), "X", X, spread, 3)


def test_ribs_that_never_meet_are_refused():
    with pytest.raises(Refused, match="the same way"):
        upright(X, X)
    two = mesh_form(trimesh.util.concatenate([trimesh.creation.box((20, 20, 20)),
        trimesh.creation.box((20, 20, 20), transform=trimesh.transformations.translation_matrix([100, 100, 0]))]))  # fmt: skip
    with pytest.raises(CannotBeDone, match="crosses another"):
        families = (Family("X", X, np.array([0.0])), Family("Y", Y, np.array([100.0])))
        interlocking(two, *families, Making(3.0))


def test_the_layout_has_each_piece_once_apart_and_named(ball):
    made = ribs_of(ball)
    drawing = laid_out(made)
    outlines = [shapely.Polygon(c.flattened(1e-4)) for c in drawing if c.layer == "CUT"]
    assert len(outlines) == len(made.ribs)
    assert sum(p.area for p in outlines) == pytest.approx(sum(rib.area.area for rib in made.ribs), rel=1e-4)
    tree = shapely.STRtree(outlines)
    assert all(len(tree.query(p, predicate="intersects")) == 1 for p in outlines)
    assert any(c.layer == "TEXT" for c in drawing)


def test_each_slot_bears_the_name_of_its_mate_and_one_family_can_be_laid_out_alone(ball):
    made = ribs_of(ball, spacing=40)
    letters = [c for c in laid_out(made) if c.layer == "TEXT"]
    named = sum(len(lettering(s.other, 4.0)[0]) for rib in made.ribs for s in rib.slots)
    own = sum(len(lettering(rib.name, 4.0)[0]) for rib in made.ribs)
    assert len(letters) == named + own
    for (rib, shift), other in zip(placed(made), placed(replace(made, laid="Y")), strict=False):
        inside = shapely.prepare(rib.area) or rib.area
        near = [c for c in letters if inside.distance(shapely.Point(c.points[0] - shift)) == 0]
        assert near and all(inside.contains(shapely.Polygon(c.points - shift)) for c in near)
        assert other[0].name[0] == "Y"


def test_the_layout_is_in_cutting_order(ball):
    """The simulated laser finds nothing that is run when the part round it is loose already: names, holes, outlines."""
    made = ribs_of(ball)
    drawing = laid_out(replace(made, ribs=tuple(lightened(rib, 8.0) for rib in made.ribs)))
    assert sum(c.layer == "CUT" for c in drawing) > len(made.ribs)
    assert run(dxf_bytes(drawing), "ribs.dxf", Laser()).faults == ()


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


def test_advice_is_what_helps_when_it_is_tried():
    """On a ball of 60, ribs at ±42.2 cross each other at its rim, where there is hardly any height."""
    form = mesh_form(trimesh.creation.icosphere(4, 60))
    families = Family("X", X, np.array([-42.2, 0, 42.2])), Family("Y", Y, np.array([-42.2, 0, 42.2]))
    how = Making(10.0)
    found = interlocking(form, *families, how)
    assert found.troubles and not found.sound
    given = advice(found, families, lambda pair: interlocking(form, *pair, how))
    assert given
    for each in given:
        assert len(interlocking(form, *_with(families, each), how).troubles) < len(found.troubles)


def _with(families, each):
    return tuple(
        replace(family, at=np.array(each.places)) if family.letter == each.letter else family for family in families
    )


# --- fans, curves, base plates, rods ---------------------------------------------------------------


def overlap(one, two, thickness, moved=0.0):
    """How many of many points strewn in plate ``one``, moved along the way it slides, lie well within plate ``two``."""
    way = np.cross(one.frame.normal, two.frame.normal)
    way /= np.linalg.norm(way)
    foot = np.linalg.lstsq(np.array([one.frame.normal, two.frame.normal]), [one.frame.at, two.frame.at], rcond=None)[0]
    side = np.cross(one.frame.normal, way)
    s, across, off = np.meshgrid(
        np.linspace(-150, 150, 601), np.linspace(-3, 3, 13) * thickness, np.linspace(-0.48, 0.48, 4) * thickness
    )
    points = foot + s.reshape(-1, 1) * way + across.reshape(-1, 1) * side
    mine = shapely.contains_xy(one.area.buffer(-0.02), *one.frame.flat(points).T)
    there = points[mine] + off.reshape(-1, 1)[mine] * one.frame.normal + moved * one.frame.slides
    within = np.abs(there @ two.frame.normal - two.frame.at) < 0.48 * thickness
    return int(shapely.contains_xy(two.area.buffer(-0.02), *two.frame.flat(there[within]).T).sum())


def cylinder(radius=60.0, height=80.0):
    return mesh_form(trimesh.creation.cylinder(radius, height, sections=96))


def fan_of(form, count, thickness=3.0, fit=0.2, spacing=20.0):
    up = np.array([0.0, 0, 1])
    standing = fan("X", np.zeros(3), up, count, 10.0, thickness, fit)
    return interlocking(form, standing, family(form, "Y", up, Spread(spacing), thickness), Making(thickness, fit))


def test_ribs_in_a_fan_are_half_sections_that_slide_inwards():
    made = fan_of(cylinder(), 12)
    ribs = {rib.name: rib for rib in made.ribs}
    assert made.possible and made.sound and len(made.groups) == 1
    begins = 3.2 / 2 / np.tan(np.pi / 12)
    for rib in (rib for name, rib in ribs.items() if name.startswith("X")):
        cut = sum(slot.width * slot.depth for slot in rib.slots)
        assert rib.area.area + cut == pytest.approx((60 - begins) * 80, rel=2e-3)
        assert len(rib.slots) == 4 and {slot.opens for slot in rib.slots} == {"down"}
        assert all(slot.width == pytest.approx(3.2) and abs(slot.way[0]) == pytest.approx(1) for slot in rib.slots)
    assert [name[0] for name in ribs] == ["Y"] * 4 + ["X"] * 12


def test_a_fan_goes_together_by_straight_moves():
    """Each half plate is pushed in from outside, through all that stands there already."""
    made = fan_of(cylinder(), 8)
    placed = []
    for rib in made.ribs:
        for moved in (0, 0.5, 2, 7, 15, 30, 60):
            assert not any(overlap(rib, other, 3.0, moved) for other in placed if rib.name[0] == "X"), rib.name
        placed.append(rib)


def bow(radius=200.0, turn=0.6):
    angle = np.linspace(-turn, turn, 200)
    return np.column_stack([radius * np.sin(angle), np.zeros(200), radius * np.cos(angle) - radius])


def test_ribs_square_to_a_curve_go_together():
    """A quarter of a ring, its ribs square to its own middle line: sections of one size, slid in each its own way."""
    ring = mesh_form(trimesh.creation.torus(200, 30, major_sections=160, minor_sections=48,
                     transform=trimesh.transformations.rotation_matrix(np.pi / 2, [1, 0, 0])))  # fmt: skip
    standing = square_to_curve("X", bow() + [0, 0, 200], Y, Spread(count=4), 3.0)
    assert len(standing.points) == 4
    for frame, point in zip(standing.frames, standing.points, strict=True):
        radial = point / np.linalg.norm(point)
        assert abs(frame.normal @ radial) < 1e-3 and frame.at == pytest.approx(0, abs=0.2)  # through the ring's middle
    made = interlocking(ring, standing, Family("Y", Y, np.array([-12.0, 12.0])), Making(3.0, 0.1))
    assert made.possible, made.reasons  # the far pieces, on the other side of the middle, go in the other way round
    assert {rib.name: rib.comes_from @ rib.frame.slides > 0 for rib in made.ribs if rib.name[0] == "X"} == {
        f"X{k}.{piece}": piece == 2 for k in (1, 2, 3, 4) for piece in (1, 2)
    }
    assert pushed_in(made)


def slab():
    """A slab bent like a bow, 80 wide and 30 thick."""
    corners = [bow(radius, 0.5) + [0, y, radius - 200] for radius, y in ((200, -40), (230, -40), (230, 40), (200, 40))]
    points = np.stack(corners, axis=1).reshape(-1, 3)
    quads = [
        (4 * k + i, 4 * k + (i + 1) % 4, 4 * k + 4 + (i + 1) % 4, 4 * k + 4 + i) for k in range(199) for i in range(4)
    ]
    quads += [(3, 2, 1, 0), (796, 797, 798, 799)]
    made = trimesh.Trimesh(points, [tri for a, b, c, d in quads for tri in ((a, b, c), (a, c, d))])
    made.fix_normals()
    return mesh_form(made)


@pytest.mark.parametrize("halves", ["up", "down"])
def test_ribs_along_a_bow_slide_in_each_its_own_way(halves):
    standing = square_to_curve("X", bow(215, 0.45) + [0, 0, 15], Y, Spread(30.0), 3.0)
    made = interlocking(slab(), standing, Family("Y", Y, np.array([-25.0, 0.0, 25.0])), Making(3.0, 0.1, halves=halves))
    assert made.possible and made.sound, made.reasons
    xs = [rib for rib in made.ribs if rib.name.startswith("X")]
    assert len(xs) == 6 and all(len(rib.slots) == 3 for rib in xs)
    for rib in xs:
        assert all(slot.depth == pytest.approx(15, abs=0.05) for slot in rib.slots)
    placed = []
    towards = -1 if halves == "up" else 1
    for rib in made.ribs:
        for moved in (0, 0.5, 2, 7, 15, 40):
            assert not any(overlap(rib, other, 3.0, towards * moved) for other in placed if rib.name[0] == "X")
        placed.append(rib)


@pytest.mark.parametrize("relieved", ["bone", "tee"])
def test_relieved_corners_let_a_square_edge_in(relieved):
    """The corner of the mate's edge lies on the edge of the rounding; what more is taken away is what the rounds are."""
    form = cylinder()
    plain, made = (ribs_of(form, 40, 6.0, tool=Tool(kind, 3.0)) for kind in ("none", relieved))
    for bare, rib in zip(plain.ribs, made.ribs, strict=True):
        for slot in rib.slots:
            side = np.array([slot.way[1], -slot.way[0]]) * slot.width / 2
            for corner in (slot.at + side, slot.at - side):
                assert shapely.Point(corner).distance(rib.area) < 1e-3
        more = bare.area.area - rib.area.area
        each = 1.5**2 * (np.pi / 2 if relieved == "tee" else np.pi / 2 - 1)
        assert more == pytest.approx(2 * len(rib.slots) * each, rel=2e-3)


def test_a_base_plate_takes_tongues_of_the_first_family():
    made = on_a_base(ribs_of(cylinder(), 40, 3.0, base=-30.0), "X", -30.0, Making(3.0, 0.2))
    base, *rest = made.ribs
    assert base.name == "B1" and base.frame.at == pytest.approx(-31.5)
    for rib in rest:
        low = rib.area.bounds[1]
        assert low == pytest.approx(-33 if rib.name.startswith("X") else -30)
        assert overlap(rib, base, 3.0) == 0
    xs = [rib for rib in rest if rib.name.startswith("X")]
    assert len(base.area.interiors) == len(xs)
    for rib, hole in zip(xs, sorted(base.area.interiors, key=lambda ring: ring.bounds[0]), strict=True):
        tongue = rib.area.intersection(shapely.box(-100, -33, 100, -30.01))
        assert tongue.area == pytest.approx(3.0 * np.ptp(tongue.bounds[::2]), rel=5e-3)
        assert shapely.Polygon(hole).area == pytest.approx(3.2 * (np.ptp(tongue.bounds[::2]) + 0.2), rel=1e-3)
    with pytest.raises(CannotBeDone, match="stands on the plane"):
        on_a_base(ribs_of(cylinder(), 40, 3.0), "X", -90.0, Making(3.0))


def test_rods_run_through_as_many_ribs_as_can_be():
    form = cylinder()
    ribs = family(form, "X", np.array([0.0, 0, 1]), Spread(20.0), 3.0)
    made = on_rods(form, ribs, Y, 40.0, 8.0, Making(3.0, 0.2))
    assert made.possible and len(made.rods) == 3 and len(made.ribs) == 4
    for rod in made.rods:
        assert rod.length == pytest.approx(63)  # from the lower face of the first to the upper one of the last
        corners = faces_of(rod.plate, rod.length)
        volume = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6
        assert volume == pytest.approx(63 * 24 / 2 * 4**2 * np.sin(2 * np.pi / 24))  # a prism of 24 sides, seen outside
    for rib in made.ribs:
        assert len(rib.area.interiors) == 3
        assert rib.area.area == pytest.approx(np.pi * 60**2 - 3 * np.pi * 4.1**2, rel=2e-3)
    with pytest.raises(Refused, match="space them wider"):
        on_rods(form, ribs, Y, 10.0, 8.0, Making(3.0))


def test_how_far_square_edges_are_from_the_form(ball):
    """On a ball of 50 a plate at x has rims at x ± t/2: the nearest point of the ball is along the radius."""
    made = ribs_of(ball, spacing=40, thickness=4.0)
    x = max(abs(rib.frame.at) for rib in made.ribs)
    radius = np.sqrt(2500 - x**2)
    expected = max(abs(np.hypot(radius, x + side) - 50) for side in (-2, 2))
    assert made.edge_distance[0] == pytest.approx(expected, rel=1e-3)
    assert 0 < made.edge_distance[1] < made.edge_distance[0]
