"""Bodies made from drawings and blanks: volumes against closed forms, and what they say when they cannot be."""

from __future__ import annotations

import math

import numpy as np
import pytest
import trimesh
from OCP.BRepBuilderAPI import BRepBuilderAPI_GTransform
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
from OCP.gp import gp_Ax2, gp_Dir, gp_GTrsf, gp_Mat, gp_Pnt, gp_XYZ
from scipy.interpolate import make_interp_spline

from tests.meshes import form_of
from tests.sheet_parts import drawn_out, without
from zuschnitt.core.carry.placement import Placement
from zuschnitt.core.carry.tracks import tracks
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.develop.inset import inset
from zuschnitt.core.develop.placing import Hold
from zuschnitt.core.developable.ruled import ruled_form
from zuschnitt.core.errors import CannotBeDone, Refused
from zuschnitt.core.files.stl import stl_bytes
from zuschnitt.core.form.build import domed_lid
from zuschnitt.core.form_curves.stations import Way, spacings_by, stations
from zuschnitt.core.geometry.surfaces import SplineSurface
from zuschnitt.core.kernel.step_in import read_step_bytes
from zuschnitt.core.kernel.step_out import named_shapes_bytes
from zuschnitt.core.plane.contour import Contour
from zuschnitt.core.solids import carrying
from zuschnitt.core.solids.bars import Bar, bars
from zuschnitt.core.solids.bent_mesh import bent_file
from zuschnitt.core.solids.bodies import bodies_step, form_of_bodies
from zuschnitt.core.solids.explore import volume
from zuschnitt.core.solids.packing import unpacked
from zuschnitt.core.solids.pocketing import pocketed
from zuschnitt.core.solids.raising import raised
from zuschnitt.core.solids.shape import shape_of
from zuschnitt.core.solids.standing import bent
from zuschnitt.core.solids.sweeping import swept
from zuschnitt.core.solids.thickening import thickened

R = 50.0
CIRCLE = Contour.circle((0, 0), 8.0)
SLOT = Contour(np.array([[-20, -5], [20, -5], [20, 5], [-20, 5.0]]), np.array([0, 1.0, 0, 1]), True)
SQUARE = Contour.polyline([[-1, -1], [1, -1], [1, 1], [-1, 1.0]], closed=True)
HELD = Hold(np.array([R, 0, 10.0]), np.array([0.0, 1, 0]))


def on(form, faces=None, hold=HELD):
    return develop(form, faces or [f.number for f in form.faces], hold=hold)


def on_tube(form):
    given = form("tube")
    return given, on(given, [1])


def curved(area, low, high):
    """The volume between two heights over an area of the blank of a tube."""
    return area * (high - low) * (1 + (high + low) / 2 / R)


@pytest.mark.parametrize("name", ["loft", "box", "cone", "apex", "dome", "ball", "ring", "rounded", "bent_sheet",
                                  "drilled_tube", "octant", "gore_splines", "tip_up"])  # fmt: skip
def test_a_form_in_the_kernel_is_the_form_again(form, name):
    given = form(name)
    back = read_step_bytes(named_shapes_bytes([("x", shape_of(given))]), "x")
    assert [f.area for f in back.faces] == pytest.approx([f.area for f in given.faces], rel=1e-9)


@pytest.mark.parametrize("figure", [CIRCLE, SLOT])
@pytest.mark.parametrize("height", [3.0, -3.0])
def test_raised_and_sunk_on_a_tube(form, figure, height):
    given, blank = on_tube(form)
    (made,) = raised(given, blank, [figure.moved(1, 0, (100, 50))], height).made
    wanted = curved(figure.area, min(0, height), max(0, height))
    assert abs(made.volume_change) == pytest.approx(wanted, rel=1e-7)
    assert math.copysign(1, made.volume_change) == math.copysign(1, height)
    mesh = trimesh.load(trimesh.util.wrap_as_stream(stl_bytes(form_of_bodies([made], "x"))), file_type="stl")
    assert mesh.is_watertight
    assert mesh.volume == pytest.approx(made.volume, rel=2e-3)


def test_across_joined_faces_and_of_open_ones(form):
    given = form("bend")  # its outer side is outside of the bend, whose neutral radius grows
    blank = on(given, hold=Hold(np.array([0.0, 0, 0]), np.array([1.0, 0, 0])))
    (made,) = raised(given, blank, [SLOT.moved(1, 0, (75, -45))], 2.0).made
    assert made.depth_min == 0 and made.depth_max == 2 and made.volume_change is None
    # what lies over the bend (70 to 88.85 of 55 to 95 and the round end) gains by the radius there
    over = 10 * (12 * math.pi / 2)
    assert made.volume == pytest.approx(2 * SLOT.area + over * 2 * (1 / 12), rel=1e-3)


def test_a_smooth_outline_across_two_faces_is_exact():
    """Its wall is one face that comes round to itself: divided where the faces meet, each part has one of its sides."""
    bend = read_step_bytes(named_shapes_bytes([("bend", drawn_out([100, 60], [90], 38.0, 2.0, 120.0))]), "bend")
    outside = next(f for f in bend.faces if f.kind == "cylinder" and abs(f.radius) > 39)
    flat = next(f.number for f in bend.faces if f.number in outside.smooth and f.area > 11000)
    blank = develop(bend, [flat, outside.number], hold=Hold(np.array([100.0, 60, 0]), np.array([1.0, 0, 0])))
    t = np.linspace(0, 2 * np.pi, 900, endpoint=False)
    star = (20 * (1 + 0.25 * np.cos(7 * t))) * np.array([np.cos(t), np.sin(t)])
    (made,) = raised(bend, blank, [Contour.polyline(star.T, closed=True)], 1.0).made
    right = 400 / 2 * (np.pi * (1 + 0.25**2 / 2) - 2 * 2 * 0.25 / 7)  # beyond the middle, where it is bent
    whole = 400 * np.pi * (1 + 0.25**2 / 2)
    assert made.by == "exact"
    assert made.volume_change == pytest.approx(whole + right / (2 * 40), rel=4e-5)


def test_walls_drawn_in_and_through_a_wall(form):
    given = form("box")
    blank = on(given, [6], Hold(np.array([0.0, 0, 40]), np.array([1.0, 0, 0])))
    square = Contour.polyline([[-10, -10], [10, -10], [10, 10], [-10, 10.0]], closed=True).moved(1, 0, (50, 30))
    (made,) = raised(given, blank, [square], 4.0, draft=20.0).made
    top = 20 - 8 * math.tan(math.radians(20))
    assert made.volume_change == pytest.approx(4 / 3 * (400 + top**2 + 20 * top), rel=1e-6)
    through = raised(given, blank, [square], -45.0)
    assert through.made[0].volume_change == pytest.approx(-400 * 40, rel=1e-9)
    assert "through the wall" in through.messages[0]


def test_islands_alternate_and_what_lies_beside_is_said(form):
    given, blank = on_tube(form)
    art = [c.moved(1, 0, (100, 50)) for c in (CIRCLE, Contour.circle((0, 0), 4.0))]
    found = raised(given, blank, [*art, CIRCLE.moved(1, 0, (100, 500))], 2.0)
    assert found.made[0].volume_change == pytest.approx(curved(math.pi * (64 - 16), 0, 2), rel=1e-6)
    assert "beside the blank" in found.messages[0]


def test_what_would_turn_over_itself_is_refused_with_the_height_that_would_do(form):
    given, blank = on_tube(form)
    with pytest.raises(CannotBeDone, match="no more than 49.95 mm; it is 60 mm deep"):
        raised(given, blank, [CIRCLE.moved(1, 0, (100, 50))], -60.0)
    with pytest.raises(Refused, match="no closed outline"):
        raised(given, blank, [Contour.polyline([[0, 0], [9, 9.0]])], 1.0)
    for bad in (0.0, math.nan, 1e9):
        with pytest.raises(Refused, match="height must be"):
            raised(given, blank, [CIRCLE], bad)


def test_bodies_on_the_blank_of_a_tube(form):
    given, blank = on_tube(form)
    block = BRepPrimAPI_MakeBox(gp_Pnt(-10, -6, -1), gp_Pnt(10, 6, 4)).Shape()
    bar = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(-10, 30, 1), gp_Dir(1, 0, 0)), 3, 20).Shape()
    content = named_shapes_bytes([("block", block), ("bar", bar)])
    made = bent(given, blank, content, "two.step", Placement(at=(100, 50)))
    assert made[0].volume == pytest.approx(curved(240, -1, 4), rel=1e-8)
    assert (made[0].depth_min, made[0].depth_max) == pytest.approx((-1, 4), abs=1e-6)
    assert made[0].crosses and made[0].floats_max == 0
    assert not made[1].crosses and made[1].floats_max == pytest.approx(1.0, abs=1e-3)
    back = read_step_bytes(bodies_step(made), "x")
    assert sorted(len(body.faces) for body in back.bodies) == [3, 6]
    lifted = bent(given, blank, content, "two.step", Placement(at=(100, 50), lift=2.5, mirror="yz"))
    assert len(lifted) == 4 and lifted[0].floats_max == pytest.approx(1.5, abs=1e-6)
    assert lifted[1].volume == pytest.approx(lifted[0].volume, rel=1e-9)


def test_bodies_in_a_row_are_each_as_if_alone_and_stretched_along_their_own_axes(form):
    given, blank = on_tube(form)
    content = named_shapes_bytes([("block", BRepPrimAPI_MakeBox(gp_Pnt(0, 0, -1), gp_Pnt(10, 6, 3)).Shape())])
    how = Placement(at=(60, 20), turn=90.0, stretch=(2.0, 0.5, 3.0), count=3, apart=(25.0, 4.0))
    made = bent(given, blank, content, "block.step", how)
    assert [body.name for body in made] == ["block, 1", "block, 2", "block, 3"]
    assert [body.volume for body in made] == pytest.approx([curved(10 * 6, -3.0, 9.0)] * 3, rel=1e-7)
    low = np.array([body.footprint[0].min(axis=0) for body in made])
    high = np.array([body.footprint[0].max(axis=0) for body in made])
    assert low == pytest.approx(np.array([[57, 20], [82, 24], [107, 28]]), abs=1e-6)
    assert high - low == pytest.approx(np.tile([3, 20], (3, 1)), abs=1e-6)
    box = trimesh.creation.box(bounds=[[0, 0, -1], [10, 6, 3]])
    meshed = bent_file(given, blank, stl_bytes(form_of(box)), "block.stl", how)
    assert len(meshed) == 3
    assert [body.volume for body in meshed] == pytest.approx([body.volume for body in made], rel=2e-3)


def test_a_body_of_spline_faces_over_two_faces_is_bent_where_it_lies_over_the_bend():
    """Its parts are faces of one large spline surface: where each lies, its outline says."""
    bend = read_step_bytes(named_shapes_bytes([("bend", drawn_out([100, 60], [90], 38.0, 2.0, 120.0))]), "bend")
    outside = next(f for f in bend.faces if f.kind == "cylinder" and abs(f.radius) > 39)
    flats = [f.number for f in bend.faces if f.number in outside.smooth and f.area > 7000]
    blank = develop(bend, [*flats, outside.number], hold=Hold(np.array([100.0, 60, 0]), np.array([1.0, 0, 0])))
    wide = gp_GTrsf(gp_Mat(1.7, 0, 0, 0, 0.8, 0, 0, 0, 1), gp_XYZ(0, 0, 0))
    disc = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(0, 0, -1), gp_Dir(0, 0, 1)), 10.0, 4.0).Shape()
    content = named_shapes_bytes([("oval", BRepBuilderAPI_GTransform(disc, wide, True).Shape())])
    end = 20 * math.pi  # of the bend on the blank
    (made,) = bent(bend, blank, content, "oval.step", Placement(at=(end + 3.0, 5.0)))
    # of the oval, what is left of x = -3, stretched back to a circle
    angle = math.acos(3 / 17)
    over = 17 * 8 * (angle - math.sin(angle) * math.cos(angle))
    assert made.by == "exact"
    assert made.volume == pytest.approx(math.pi * 17 * 8 * 4 + over * (3**2 - 1) / 2 / 40, rel=1e-6)


@pytest.mark.parametrize("inner", [7.9, 7.5, 3.0])
def test_a_narrow_ring_is_bent_though_no_grid_over_it_meets_it(inner):
    tube = read_step_bytes(named_shapes_bytes([("tube", BRepPrimAPI_MakeCylinder(10, 60).Shape())]), "tube")
    blank = develop(tube, [1], hold=Hold(np.array([10.0, 0, 30.0]), np.array([0.0, 1, 0])))
    outer, hole = (
        BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(0, 0, low), gp_Dir(0, 0, 1)), radius, high).Shape()
        for radius, low, high in ((8.0, -0.5, 1.5), (inner, -2.0, 5.0))
    )
    content = named_shapes_bytes([("ring", without(outer, hole))])
    (made,) = bent(tube, blank, content, "ring.step", Placement(at=(20.0, 3.0)))
    assert made.by == "exact"
    assert made.volume == pytest.approx(math.pi * (64 - inner**2) * 1.5 * (1 + 0.25 / 10), rel=1e-6)


def test_a_mesh_on_the_blank_stays_a_mesh(form):
    given, blank = on_tube(form)
    box = trimesh.creation.box((20, 12, 5))
    box.apply_translation((0, 0, 1.5))
    (made,) = bent_file(given, blank, box.export(file_type="stl"), "box.stl", Placement(at=(100, 50)))
    assert made.by == "mesh" and made.crosses
    assert made.volume == pytest.approx(curved(240, -1, 4), rel=1e-3)
    opened = box.copy()
    opened.update_faces(np.arange(len(box.faces)) > 0)
    with pytest.raises(CannotBeDone, match="not closed"):
        bent_file(given, blank, opened.export(file_type="stl"), "box.stl", Placement(at=(100, 50)))


def test_a_blank_given_a_thickness(form):
    given, blank = on_tube(form)
    square = SQUARE.moved(5, 0, (100, 50))
    (flat,), _ = thickened(given, blank, 2.0, [square], 0.5, False)
    assert flat.volume == pytest.approx(blank.figures.area_blank * 2 - 50, rel=1e-9)
    (formed,), _ = thickened(given, blank, 2.0, [square], 0.5, True)
    wanted = math.pi * (52**2 - 50**2) * 120 - curved(100, 1.5, 2.0)
    assert formed.volume == pytest.approx(wanted, rel=1e-7)
    with pytest.raises(Refused, match="no deeper than"):
        thickened(given, blank, 2.0, [square], 3.0, False)


def test_a_relaxed_blank_given_a_thickness_is_never_far_from_its_form():
    """Beyond the outline a relaxed blank is not smooth: what is off there by a mm is no part of the body."""
    at, square, knots = np.array([-50.0, 0, 50]), np.array([2500.0, -2500, 2500]), np.repeat([0.0, 1.0], 3)
    x, y = np.meshgrid(at, at, indexing="ij")
    control = np.stack([x, y, (square[:, None] - square) / 90], axis=2)  # z = (x² - y²) / 90
    saddle = ruled_form([SplineSurface(knots, knots, control, 2, 2)], "saddle")
    blank = develop(saddle, [1])
    assert blank.way == "relaxed"
    ((formed,), _), thick = thickened(saddle, blank, 2.0, [], 0.0, True), 2.0
    (mesh,) = saddle.meshes
    floor = mesh.points[mesh.triangles]
    roof = floor + thick * mesh.normals[mesh.triangles]
    corners = [(0, 1, 2, 3), (1, 2, 3, 4), (2, 3, 4, 5)]  # of each prism in three tetrahedra
    prisms = np.concatenate([floor, roof], axis=1)
    tetrahedra = [prisms[:, c] - prisms[:, [c[0]]] for c in corners]
    wanted = sum(np.abs(np.linalg.det(each[:, 1:])).sum() for each in tetrahedra) / 6
    assert formed.volume == pytest.approx(wanted, rel=5e-3) and formed.deviation <= 0.01
    reach = np.abs(np.array(formed.box)).max()
    assert reach < np.abs(np.vstack([floor, roof]).reshape(-1, 3)).max() + 0.5


def test_what_the_kernel_cannot_bend_well_is_made_of_triangles(monkeypatch):
    """A figure raised from a relaxed blank, as if its faces ran wild beside it."""
    lid = domed_lid(240, 180, 36, 40, 0)
    blank = develop(lid, [1])
    exact = raised(lid, blank, [CIRCLE], 1.0)
    monkeypatch.setattr(carrying, "WILD", 0.0)
    monkeypatch.setattr(carrying, "OFF", 0.0)
    rough = raised(lid, blank, [CIRCLE], 1.0)
    assert exact.made[0].by == "exact" and rough.made[0].by == "mesh"
    assert rough.made[0].volume == pytest.approx(exact.made[0].volume, rel=1e-2)
    assert any("made of triangles" in message for message in rough.messages)


def test_a_lobed_tube_given_a_thickness_is_read_back_as_it_was_made():
    """Its edges have many knots, of which the kernel's quick measure of lengths makes more than there is."""
    t = np.linspace(0, 1, 25)
    far = 50 + 8 * np.cos(8 * np.pi * t)
    ring = np.stack([far * np.cos(2 * np.pi * t), far * np.sin(2 * np.pi * t), 0 * t], axis=1)
    ring[-1] = ring[0]
    spline = make_interp_spline(t, ring, 3, bc_type="periodic")
    control = np.stack([spline.c, spline.c + [0, 0, 70.0]], axis=1)
    tube = ruled_form([SplineSurface(spline.t, np.repeat([0.0, 1.0], 2), control, 3, 1)], "lobes")
    blank = develop(tube, [1])
    assert blank.way == "exact"
    ((formed,), _) = thickened(tube, blank, 2.0, [], 0.0, True)
    inward = 2 * np.pi * 70 * 2  # what a skin 2 mm inside of a closed curve, or outside, lacks or has more
    assert formed.by == "exact"
    assert abs(formed.volume - 2 * blank.figures.area_blank) == pytest.approx(inward, rel=1e-3)
    assert bodies_step([formed])


def test_pockets(form):
    given = form("box")
    blank = on(given, [6], Hold(np.array([0.0, 0, 40]), np.array([1.0, 0, 0])))
    outline = inset(blank, 10, 5)
    area = 80 * 40 - (4 - math.pi) * 25
    assert abs(sum(c.area for c in outline)) == pytest.approx(area, rel=1e-5)
    made = pocketed(given, blank, outline, 4.0)
    assert made.made[0].volume_change == pytest.approx(-4 * area, rel=1e-5)
    through = pocketed(given, blank, inset(blank, 10, 0), None)
    assert through.made[0].volume_change == pytest.approx(-80 * 40 * 40, rel=1e-9)
    assert pocketed(form("bend"), on(form("bend")), outline, None) is None
    with pytest.raises(CannotBeDone, match="Nothing is left"):
        inset(blank, 40, 0)


def test_sections_along_lines(form):
    given, blank = on_tube(form)
    line = Contour.polyline([[0, 0], [400, 60.0]])  # more than once round the tube
    (track,) = tracks(given, blank.correspondence, [line])
    square = swept(track, SQUARE, "surface")
    # its middle line keeps its length; the normal of a helix turns with the circle, so nothing is gained
    assert volume(square.shape) == pytest.approx(4 * math.hypot(400, 60), rel=2e-5)
    upright = swept(track, SQUARE, "axis")
    assert volume(upright.shape) == pytest.approx(4 * 400, rel=1e-8)  # Pappus
    ring = tracks(given, blank.correspondence, [Contour.circle((100, 50), 15.0)])
    assert len(ring) == 1 and ring[0].closed
    assert volume(swept(ring[0], SQUARE, "surface").shape) == pytest.approx(4 * 2 * math.pi * 15, rel=1e-4)
    corner = tracks(given, blank.correspondence, [Contour.polyline([[10, 10], [70, 10], [70, 60.0]])])
    assert [t.name for t in corner] == ["line 1, part 1", "line 1, part 2"]
    with pytest.raises(CannotBeDone, match="too large for the bend"):
        swept(ring[0], SQUARE.moved(30), "surface")
    flat = form("box")
    sheet = on(flat, [6], Hold(np.array([0.0, 0, 40]), np.array([1.0, 0, 0])))
    (straight,) = tracks(flat, sheet.correspondence, [Contour.polyline([[10, 10], [60, 30.0]])])
    with pytest.raises(CannotBeDone, match="no axis"):
        swept(straight, SQUARE, "axis")


def test_stations_by_a_rule_on_a_cone(form):
    given = form("cone")  # radius 100 at the foot, 40 at 150 up
    way = Way(np.zeros(3), np.array([0, 0, 1.0]))
    assert way.extent(given, [1]) == pytest.approx(150, abs=1e-6)
    fifth = spacings_by(lambda own: own["left"] / 5, 150.0, 6)
    assert fifth == pytest.approx([150 / 5 * 0.8**k for k in range(6)])
    found, _ = stations(given, [1], way, fifth, skip={3})
    assert [s.number for s in found] == [1, 2, 4, 5, 6]
    for station in found:
        assert station.length == pytest.approx(2 * math.pi * (100 - 0.4 * station.at), rel=1e-8)
    with pytest.raises(Refused, match="never ends"):
        spacings_by(lambda own: own["left"] / 5, 150.0, None)
    with pytest.raises(Refused, match="above 0"):
        spacings_by(lambda own: own["left"] - 200, 150.0, 3)
    with pytest.raises(CannotBeDone, match="No station cuts"):
        stations(given, [1], way, [500.0])


def test_stations_round_a_mesh_are_as_long_as_its_chords():
    """A closed cut begins and ends at the seam of its face, which has other parameters on its other side."""
    round_it = form_of(trimesh.creation.cylinder(60, 80, sections=96))
    wall = max(round_it.faces, key=lambda face: face.area).number
    found, _ = stations(round_it, [wall], Way(np.array([0, 0, -40.0]), np.array([0, 0, 1.0])), [20.0, 21.3])
    assert [each.length for each in found] == pytest.approx([96 * 120 * np.sin(np.pi / 96)] * 2, rel=1e-9)
    ball = trimesh.creation.icosphere(4, 80)
    found, _ = stations(form_of(ball), [1], Way(np.array([0, 0, -80.0]), np.array([0, 0, 1.0])), [63.7])
    flat = ball.section([0, 0, 1], [0, 0, -16.3])
    assert found[0].length == pytest.approx(flat.length, rel=1e-6)


def test_bars_with_tongues_and_grooves(form):
    given = form("box")
    found, _ = stations(given, [6], Way(np.zeros(3), np.array([1.0, 0, 0])), [10, 20.0])
    made, _ = bars(given, [6], found, Bar("half-round", 6, tongue=(2, 8, 5), groove=0.3))
    assert [body.volume for body in made[:2]] == pytest.approx([math.pi * 4.5 * 60 + 2 * 8 * 50] * 2, rel=1e-7)
    assert made[2].volume_change == pytest.approx(-2 * 2.3 * 8 * 50, rel=1e-9)
    ring, _ = stations(form("tube"), [1], Way(np.zeros(3), np.array([0, 0, 1.0])), [30.0])
    (hollow,), _ = bars(form("tube"), [1], ring, Bar("round", 6, wall=1))
    assert hollow.volume == pytest.approx(2 * math.pi * R * math.pi * 5, rel=1e-6)
    (outer,), _ = bars(form("tube"), [1], ring, Bar("round", 6, keep="outer"))
    assert outer.volume == pytest.approx(2 * math.pi * math.pi * 9 / 2 * (R + 4 * 3 / (3 * math.pi)), rel=1e-5)
    with pytest.raises(Refused, match="need a closed body"):
        bars(form("bend"), [1], stations(form("bend"), [1], Way(np.zeros(3), np.array([0, 1.0, 0])), [20])[0],
             Bar("round", 6, tongue=(1, 2, 0), groove=0.1))  # fmt: skip


def test_a_made_body_is_a_form_that_can_be_developed(form):
    given, blank = on_tube(form)
    (made,) = raised(given, blank, [SLOT.moved(1, 0, (100, 50))], 3.0).made
    body = form_of_bodies([made], "x")
    assert volume(unpacked(made.content)) == pytest.approx(made.volume)
    side = next(f.number for f in body.faces if not f.looked_at)
    assert develop(body, [side]).way == "exact"
