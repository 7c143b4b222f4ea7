"""Drawings made ready for a machine: kerf on the side of the waste, leads, bridges, order, G-code."""

from __future__ import annotations

import itertools
import re
from dataclasses import replace

import numpy as np
import pytest
import shapely

from zuschnitt.core.cutting.order import cut_order
from zuschnitt.core.cutting.prepared import Preparing, prepared
from zuschnitt.core.errors import Refused
from zuschnitt.core.files.dxf import dxf_bytes, read_dxf
from zuschnitt.core.files.gcode import Beam, gcode_bytes
from zuschnitt.core.plane.containing import depths, parents
from zuschnitt.core.plane.contour import Contour
from zuschnitt.core.wording import Note
from zuschnitt.standins.files import gcode as reader
from zuschnitt.standins.laser.machine import Laser, run

PLATE = Contour.polyline([[0, 0], [100, 0], [100, 60], [0, 60]], closed=True)
SLOT = Contour(np.array([[30, 20], [50, 20], [50, 30], [30, 30]], float), np.array([0, 1.0, 0, 1.0]), True)
HOLE = Contour.circle((75, 30), 6)
PIN = Contour.circle((90, 50), 0.08)
MARK = Contour.polyline([[10, 50], [30, 50]], layer="MARK")
PART = (PLATE, SLOT, HOLE, MARK)


def cuts(contours):
    return [c for c in contours if c.layer in ("CUT", "CUT_OPEN")]


def test_outer_contours_move_outward_and_holes_inward():
    made, said = prepared([*PART, PIN], Preparing(kerf=0.2))
    areas = sorted(abs(c.area) for c in cuts(made))
    pi = np.pi
    assert areas == pytest.approx(
        [pi * 0.08**2, pi * 5.9**2, 20 * 9.8 + pi * 4.9**2, 6000 + 320 * 0.1 + pi * 0.01], rel=1e-9
    )
    assert said == ("1 contour too small for a kerf of 0.2 mm; they stay as drawn.",)
    ring = [Contour.circle((0, 0), 50), Contour.circle((0, 0), 40), Contour.circle((0, 0), 30)]  # a disc within a ring
    made, _ = prepared(ring, Preparing(kerf=1))
    assert [c.area / pi for c in made] == pytest.approx([30.5**2, -(39.5**2), 50.5**2]) or [
        abs(c.area) / pi for c in made
    ] == pytest.approx([30.5**2, 39.5**2, 50.5**2])


def test_open_cuts_have_no_kerf_and_this_is_said():
    slit = Contour.polyline([[10, 10], [20, 10]], layer="CUT_OPEN")
    made, said = prepared([PLATE, slit], Preparing(kerf=0.2))
    assert made[0].points.tolist() == slit.points.tolist()
    assert said == ("1 open contour cut on its line, without kerf.",) and isinstance(said[0], Note)
    assert not prepared([PLATE, slit], Preparing())[1]


def test_what_lies_within_comes_first_and_marks_before_all():
    made, _ = prepared([PLATE, HOLE, SLOT, PLATE.moved(at=(110, 0)), MARK], Preparing())
    assert made[0].layer == "MARK"
    assert [round(abs(c.area)) for c in made[1:]] in ([279, 113, 6000, 6000], [113, 279, 6000, 6000])
    nested = [Contour.circle((0, 0), r) for r in (5, 4, 3, 2, 1)]
    assert parents(nested).tolist() == [-1, 0, 1, 2, 3] and depths(parents(nested)).tolist() == [0, 1, 2, 3, 4]
    assert cut_order(nested) == [4, 3, 2, 1, 0]


def test_the_way_between_cuts_is_short():
    points = np.random.default_rng(3).uniform(0, 100, (7, 2))
    circles = [Contour.circle(point, 0.5) for point in points]
    starts = np.array([c.points[0] for c in circles])

    def way(order):
        return np.linalg.norm(np.diff(np.vstack([[0, 0], starts[list(order)]]), axis=0), axis=1).sum()

    best = min(way(order) for order in itertools.permutations(range(7)))
    assert way(cut_order(circles)) <= 1.15 * best
    many = [Contour.circle(p, 0.5) for p in np.random.default_rng(4).uniform(0, 1000, (400, 2))]
    order = cut_order(many)
    assert sorted(order) == list(range(400))
    starts = np.array([c.points[0] for c in many])
    assert way(order) < 0.93 * np.sqrt(400 * 1e6)  # near to the shortest: 0.7124 sqrt(n A)


def test_leads_lie_in_the_waste_and_clear_of_other_cuts():
    close = PLATE.moved(at=(101.5, 0))  # no room for a long lead between the two
    made, said = prepared([*PART, close], Preparing(kerf=0.2, lead=5))
    assert not said
    plates = [shapely.Polygon(c.flattened(0.01)) for c in made if c.layer == "CUT"]
    holes = sorted(plates, key=lambda p: p.area)[:2]
    material = shapely.union_all(sorted(plates, key=lambda p: p.area)[2:]).difference(shapely.union_all(holes))
    before = None
    for contour in made:
        if contour.layer == "LEAD":
            line = shapely.LineString(contour.points)
            assert line.intersection(material).length < 0.01
        elif before is not None and before.layer == "LEAD":
            assert contour.points[0] == pytest.approx(before.points[-1], abs=1e-9)
        before = contour
    _, said = prepared([PLATE, PIN], Preparing(lead=5))
    assert said == ("1 contour with no room for a lead; they are pierced on their line.",)


SQUARE = np.array([[0, 0], [60, 0], [60, 60], [0, 60]], float)


def again(contour, how):
    """The same shape once more: run backwards, begun elsewhere, a little beside it, or as short lines."""
    points, bulges = contour.points, contour.bulges
    if how == "backwards":
        return replace(contour, points=points[::-1], bulges=-np.roll(bulges[::-1], -1))
    if how == "elsewhere":
        return replace(contour, points=np.roll(points, -1, axis=0), bulges=np.roll(bulges, -1))
    return contour.moved(at=(0.003, 0.002)) if how == "beside" else Contour.polyline(contour.flattened(1e-3)[:-1], True)


@pytest.mark.parametrize("how", ["the same", "backwards", "elsewhere", "beside", "short lines"])
@pytest.mark.parametrize("kerf", [0.0, 0.2])
def test_what_is_drawn_twice_is_cut_once(how, kerf):
    plate, hole = Contour.polyline(SQUARE, True, "CUT"), Contour.circle((30, 30), 8, "CUT")
    slit = Contour.polyline(np.array([[10.0, 10.0], [20.0, 10.0], [20.0, 14.0]]), False, "CUT_OPEN")
    way = Preparing(kerf=kerf, lead=2.0)
    alone, _ = prepared([plate, hole, slit], way)
    twice = [plate, hole, slit, slit, *(each if how == "the same" else again(each, how) for each in (plate, hole))]
    made, said = prepared(twice, way)
    assert sum(c.length for c in made) == pytest.approx(sum(c.length for c in alone))
    assert any(text.startswith("3 contours drawn on another") and isinstance(text, Note) for text in said)
    assert run(dxf_bytes(made), "a.dxf", Laser()).faults == ()


def test_shapes_that_only_resemble_each_other_are_all_cut():
    plate = Contour.polyline(SQUARE, True, "CUT")
    notched = np.array([[0, 0], [30, 0], [30, 0.5], [30.5, 0.5], [30.5, 0], [60, 0], [60, 60], [0, 60]], float)
    beside = Contour.polyline(SQUARE + [60, 0], True, "CUT")
    narrower = Contour.polyline(SQUARE * [0.9995, 1], True, "CUT")
    made, said = prepared([plate, Contour.polyline(notched, True, "CUT"), beside, narrower], Preparing())
    assert len(made) == 4 and not any("drawn on another" in text for text in said)


def test_cuts_nearer_than_the_beam_is_wide_are_said_and_no_lead_goes_into_the_part():
    """An island in a hole, with less than the kerf between: once moved, the two contours run into each other."""
    hole = Contour.polyline([[20, 20], [40, 20], [40, 40], [20, 40]], closed=True)
    island = Contour.polyline([[20.4, 24], [36, 24], [36, 36], [20.4, 36]], closed=True)
    made, said = prepared([PLATE, hole, island], Preparing(kerf=0.5, lead=4))
    assert len(said) == 1 and said[0].startswith("2 contours nearer to another than a kerf of 0.5 mm: the beam cuts up")
    assert "0.10 mm into what lies beside it, most near 20." in said[0]
    plate, gap, island = (shapely.Polygon(c.points) for c in (PLATE, hole, island))
    part = plate.difference(gap)
    leads = [shapely.LineString(c.points) for c in made if c.layer == "LEAD"]
    assert len(leads) >= 4
    for lead in leads:
        assert lead.intersection(part).length < 1e-9
    rim = [lead for lead in leads if lead.distance(island) < 0.26 and lead.distance(gap.exterior) > 0.3]
    assert rim and all(lead.within(gap) for lead in rim)
    apart, said = prepared([PLATE, PLATE.moved(at=(100.5, 0))], Preparing(kerf=0.5))
    assert not said and len(apart) == 2
    _, said = prepared([PLATE, PLATE.moved(at=(100.45, 0))], Preparing(kerf=0.5))
    assert "cuts up to 0.05 mm into" in said[0]
    _, said = prepared([PLATE, PLATE.moved(at=(100, 0))], Preparing(kerf=0.5))
    assert "2 contours nearer" in said[0]


@pytest.mark.parametrize("slot", [0.15, 0.25])
def test_a_slot_that_the_beam_cannot_enter_is_said(slot):
    """Its bottom lies 20 mm from the cut, which runs nearly straight over it."""
    notched = Contour.polyline(
        [[0, 0], [100, 0], [100, 30 - slot / 2], [80, 30 - slot / 2], [80, 30 + slot / 2], [100, 30 + slot / 2],
         [100, 60], [0, 60]], closed=True,
    )  # fmt: skip
    made, said = prepared([notched, SLOT], Preparing(kerf=0.2))
    if slot > 0.2:
        assert not said
        return
    found = re.fullmatch(
        r"1 contour with a slot or corner narrower than a kerf of 0.2 mm: up to (.*) mm of it is not cut, most near "
        r"80.0, (29.9|30.1).",
        said[0],
    )
    assert len(said) == 1 and found is not None and float(found[1]) == pytest.approx(20, abs=0.05)
    outer = max(cuts(made), key=lambda c: abs(c.area))
    assert abs(outer.area) == pytest.approx(6000 + 320 * 0.1 + np.pi * 0.01, rel=1e-5)


@pytest.mark.parametrize("contour", [PLATE, PLATE.reversed(), SLOT, HOLE])
def test_bridges_leave_the_rest_of_the_contour(contour):
    made, _ = prepared([contour], Preparing(bridges=3, bridge=0.8))
    assert [c.layer for c in made] == ["CUT_OPEN"] * 3
    assert sum(c.length for c in made) == pytest.approx(contour.length - 2.4, rel=1e-9)
    flat = shapely.LinearRing(contour.flattened(1e-4))
    assert max(shapely.distance(flat, shapely.points(np.vstack([c.flattened(0.01) for c in made])))) < 1e-3
    ends = [(a.points[-1], b.points[0]) for a, b in zip(made, made[1:] + made[:1], strict=True)]
    if contour is PLATE:
        assert all(np.linalg.norm(a - b) == pytest.approx(0.8) for a, b in ends)
    _, said = prepared([contour], Preparing(bridges=3, bridge=0.8, lead=4))
    assert said == ("1 part held by bridges, pierced on the line where each cut begins.",)
    whole, said = prepared([HOLE], Preparing(bridges=8, bridge=2))
    assert whole[0].closed and "too short" in said[0]


def test_short_lines_become_arcs():
    many = Contour.polyline(Contour.circle((0, 0), 30).flattened(0.002)[:-1], closed=True)
    made, said = prepared([many], Preparing(tolerance=0.01))
    assert len(made[0].points) < 8 and abs(made[0].area) == pytest.approx(900 * np.pi, rel=1e-4)
    assert said[0].startswith(f"{len(many.points)} lines and arcs became")


def test_a_laser_runs_the_program_as_it_runs_the_drawing():
    made, _ = prepared([*PART, PLATE.moved(at=(110, 0))], Preparing(kerf=0.3, lead=4))
    laser = Laser(pierce=0.5)
    programs = {
        "a.nc": gcode_bytes(made, "Träger (1)", Beam(feed=3000, mark_feed=3000, pierce=0.5)),
        "a.dxf": dxf_bytes(made),
        "b.dxf": dxf_bytes(made, "R12"),
    }
    runs = {name: run(content, name, laser) for name, content in programs.items()}
    cut = sum(c.length for c in made if c.layer != "MARK")
    for name, found in runs.items():
        assert found.length_cut == pytest.approx(cut, rel=1e-6), name
        assert found.length_mark == pytest.approx(20) and found.pierces == 4 and len(found.cuts) == 4
        assert not found.faults and found.seconds == pytest.approx(runs["a.dxf"].seconds, rel=1e-6)
    assert b"Tr ger  1" in programs["a.nc"]
    assert {c.layer for c in read_dxf(programs["b.dxf"], "b.dxf").contours} == {"MARK", "CUT", "LEAD"}


def test_bridged_parts_are_no_fault_and_a_lead_through_a_part_is():
    made, _ = prepared(PART, Preparing(bridges=2))
    assert not run(dxf_bytes(made), "a.dxf", Laser()).faults
    through = [Contour.polyline([[50, 40], [50, 60.1]], layer="LEAD"), PLATE]
    assert [f.kind for f in run(dxf_bytes(through), "a.dxf", Laser()).faults] == ["crossing"]


@pytest.mark.parametrize(
    "text, lengths",
    [
        (b"G21 G90\nM3 S9\nG1 X10 Y0\nG1 X10 Y10\nM5\nM2", [20.0]),
        (b"g20 g90\nm3\ng1 x1 y0\nm5", [25.4]),
        (b"G21\nG0 X10 Y0\nM3\nG3 X-10 Y0 I-10 J0\nG3 X10 I-10\nM5", None),
        (b"G21\nG0 X5 Y0\nM3\nG2 X5 Y0 I-5 J0\nM5", [10 * np.pi]),
        (b"G0 X5 (G1 X9)\nM3\nG1 X6 ; to X9\nM5", [1.0]),
    ],
)
def test_programs_of_others_are_read(text, lengths):
    if lengths is None:
        with pytest.raises(reader.UnreadableError, match="line 5"):
            reader.read(text)
        return
    found, left = reader.read(text)
    assert [path.length for path in found] == pytest.approx(lengths) and not left


def test_nothing_to_cut_is_refused():
    with pytest.raises(Refused, match="nothing on the layer CUT"):
        prepared([MARK], Preparing())


def test_contours_that_cross_themselves_stay_and_are_said():
    eight = Contour.polyline([[0, 0], [20, 20], [20, 0], [0, 20]], closed=True)
    made, said = prepared([eight, PLATE.moved(at=(50, 0))], Preparing(kerf=1))
    assert said == ("1 contour crossing themselves; they stay as drawn, without kerf.",)
    assert any(len(c.points) == 4 and c.length == pytest.approx(eight.length) for c in made)


def test_ten_thousand_holes_are_one_shape():
    at = np.stack(np.meshgrid(np.arange(30) * 6.0, np.arange(30) * 6.0), -1).reshape(-1, 2)
    plate = Contour.polyline([[-10, -10], [190, -10], [190, 190], [-10, 190]], closed=True)
    made, said = prepared([plate, *(Contour.circle(p, 2) for p in at)], Preparing(kerf=0.2))
    assert not said and sum(abs(c.area) for c in made[:-1]) == pytest.approx(900 * np.pi * 1.9**2, rel=1e-9)
    assert {tuple(np.round(np.mean(c.bounds, axis=0), 6)) for c in made[:-1]} == {tuple(p) for p in at}
